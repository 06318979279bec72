import sys

from kymaton.cli.main import main

sys.exit(main())
