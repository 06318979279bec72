"""Where `kymaton` begins: until all is loaded, Ctrl+C ends it at once and without a word."""

import gc
import signal

IGNORED = signal.getsignal(signal.SIGINT) is signal.SIG_IGN  # as a shell starts what is to run behind
if not IGNORED:
    signal.signal(signal.SIGINT, signal.SIG_DFL)  # Python's own handler would tell where in the loading it was


def run() -> int:
    """Load the command line, then run what was asked for; as `kymaton.cli.main.main`."""
    gc.disable()  # nothing that is loaded is garbage
    from kymaton.cli.main import main

    gc.enable()
    try:
        if not IGNORED:
            signal.signal(signal.SIGINT, signal.default_int_handler)
        return main()
    except KeyboardInterrupt:  # between two lines, where nothing is begun yet
        return 130
