"""`kymaton`: the window, and the same computations on files."""

import contextlib
import importlib
import io
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from kymaton.cli.common import Usage
from kymaton.cli.ending import end_if_asked, heed_signals
from kymaton.core.errors import KymatonError

STOPPED, MISTAKE, PIPE_CLOSED = 130, 3, 141  # 128 and the number of the signal, as shells tell it


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command. 0: done, no faults; 1: the show has faults; 2: it could not be done, one line on stderr.

    3: a mistake in Kymaton, 130: stopped by Ctrl+C, 141: what read the output is gone.
    """
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")  # a locale without the signs must not end it
    heed_signals()
    try:
        options = _asked(sys.argv[1:] if arguments is None else arguments)
        module, _, name = options.run.partition(":")
        command = getattr(importlib.import_module(f"kymaton.cli.{module}"), name)
        end_if_asked()
        code: int = command(options)
        if sys.stdout is not None:
            sys.stdout.flush()
        return code
    except (KymatonError, Usage) as error:
        return _said(str(error), 2)
    except BrokenPipeError:
        _discard_output()
        return PIPE_CLOSED
    except KeyboardInterrupt:
        return _said("stopped.", STOPPED)
    except OSError as error:
        _discard_output()
        return _said(f"{error.filename or 'the output'}: {(error.strerror or str(error)).lower()}.", 2)
    except RecursionError:
        return _said("this is nested too deeply to be worked out.", 2)
    except MemoryError:
        return _said("there is not enough memory for this.", 2)
    except Exception as error:
        return _said(f"a mistake in Kymaton ({type(error).__name__}: {error}).", MISTAKE)


def _asked(words: Sequence[str]) -> Any:
    """What was asked for. To open the window, the words of all other commands are not looked at: it opens sooner."""
    if not words or (words[0] == "open" and len(words) == 2 and words[1] and not words[1].startswith("-")):
        return SimpleNamespace(run="window:open_show", show=Path(words[1]) if words else None)
    if list(words) == ["demo"]:
        return SimpleNamespace(run="window:demo")
    from kymaton.cli.parser import parser

    return parser().parse_args(words)


def _said(text: str, code: int) -> int:
    """One line on stderr, whatever names are in it."""
    line = "".join(c if c.isprintable() else "?" for c in text)
    with contextlib.suppress(OSError, AttributeError):
        print(f"kymaton: {line}", file=sys.stderr)
    return code


def _discard_output() -> None:
    """Nothing more can be written: what is left must not be tried at the end."""
    with contextlib.suppress(OSError, AttributeError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


if __name__ == "__main__":
    sys.exit(main())
