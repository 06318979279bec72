"""`python -m kymaton`: the same as the command."""

import sys

from kymaton.cli.main import main

sys.exit(main())
