"""`python -m kymaton`."""

import sys

from kymaton.start import run

sys.exit(run())
