"""What libraries print by themselves does not come out, neither at once nor later; what Python prints does."""

import subprocess
import sys

PROGRAM = """
import ctypes
from kymaton.core.silence import silence
libc = ctypes.CDLL(None)
print("before")
with silence():
    libc.puts(b"by itself")
    print("within", flush=True)
libc.puts(b"after, in C")
libc.fflush(None)
print("after")
"""


def test_what_a_library_prints_is_thrown_away():
    done = subprocess.run([sys.executable, "-c", PROGRAM], capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["before", "after,", "in", "C", "after"]


def test_without_a_standard_output_it_goes_on():
    program = "import os; os.close(1)\nfrom kymaton.core.silence import silence\nwith silence(): pass\nos._exit(7)"
    assert subprocess.run([sys.executable, "-c", program], check=False).returncode == 7


def test_another_thread_takes_the_output_from_nobody():
    program = (
        "import threading\nfrom kymaton.core.silence import silence\n"
        "def work():\n    with silence(): print('heard', flush=True)\n"
        "t = threading.Thread(target=work); t.start(); t.join()"
    )
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout == "heard\n"
