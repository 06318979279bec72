"""`kymaton`: the window, and the same computations on files."""

import importlib
import os
import sys
from collections.abc import Sequence

from kymaton.cli.common import Usage
from kymaton.cli.parser import parser
from kymaton.core.errors import KymatonError


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command. 0: done, no faults; 1: the show has faults; 2: it could not be done, one line on stderr."""
    try:
        options = parser().parse_args(arguments)
        module, _, name = options.run.partition(":")
        code: int = getattr(importlib.import_module(f"kymaton.cli.{module}"), name)(options)
        sys.stdout.flush()
        return code
    except (KymatonError, Usage) as error:
        print(f"kymaton: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except KeyboardInterrupt:
        print("kymaton: stopped.", file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(main())
