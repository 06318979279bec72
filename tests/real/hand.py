"""A hand in front of a screen: real keys and a real mouse on a virtual X11 screen without a compositor.

What Qt does offscreen is not what a person meets: there popups, focus, completion and Enter behave otherwise.
"""

import json
import os
import select
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parent.parent.parent
PATIENCE_S = 30.0
TOOLS = ("Xvfb", "xdotool")
MISSING = [t for t in TOOLS if shutil.which(t) is None]


class Hand:
    """Opens the program on a screen of its own; use as a context manager."""

    def __init__(self, home: Path, *arguments: str, size: str = "1280x800", scale: float = 1.0) -> None:
        self.home, self.arguments, self.size, self.scale = home, arguments, size, scale

    def __enter__(self) -> "Hand":
        read, write = os.pipe()
        self.screen = subprocess.Popen(
            ["Xvfb", "-displayfd", str(write), "-screen", "0", f"{self.size}x24", "-nolisten", "tcp"],
            pass_fds=[write], stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(write)
        with os.fdopen(read) as told:
            number = told.readline().strip()
        keep = {k: v for k, v in os.environ.items() if not k.startswith(("QT_", "XDG_", "WAYLAND"))}
        self.environment = {
            **keep, "DISPLAY": f":{number}", "QT_QPA_PLATFORM": "xcb", "HOME": str(self.home),
            "XDG_RUNTIME_DIR": str(self.home), "PYTHONPATH": str(ROOT),
        }  # fmt: skip
        if self.scale != 1.0:
            self.environment["QT_SCALE_FACTOR"] = str(self.scale)
        self.home.mkdir(exist_ok=True)
        self.home.chmod(0o700)
        self.errors = (self.home / "errors").open("w+")
        self.open(*self.arguments)
        return self

    def open(self, *arguments: str) -> None:
        """Start the program, on the whole screen."""
        self.program = subprocess.Popen(
            [sys.executable, "-m", "tests.real.listening", *arguments], cwd=ROOT, env=self.environment,
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=self.errors,
        )  # fmt: skip
        assert self._line() == {"value": "ready"}, self.said()
        width, height = (round(int(x) / self.scale) for x in self.size.split("x"))
        self.until("window is not None and window.isVisible()")
        self.ask(f"(window.move(0, 0), window.resize({width}, {height}))")
        self.until(f"window.width() == {width} and window.x() == 0")
        self.focus("window")
        self.until("window.document.report is not None")

    def focus(self, window: str) -> None:
        """Give a window the keyboard, as a desktop does with the one that has just opened."""
        subprocess.run(["xdotool", "windowfocus", str(self.ask(f"int({window}.winId())"))],
                       env=self.environment, check=True)  # fmt: skip
        self.until(f"{window}.isActiveWindow()")

    def __exit__(self, *_: object) -> None:
        for process in (self.program, self.screen):
            process.terminate()
            process.communicate(timeout=10)
        said = self.said()
        self.errors.close()
        assert "Traceback" not in said, said

    def said(self) -> str:
        """What the program wrote on its standard error."""
        self.errors.flush()
        return (self.home / "errors").read_text()

    def _line(self) -> Any:
        assert self.program.stdout is not None
        ready, _, _ = select.select([self.program.stdout], [], [], PATIENCE_S)
        if not ready:  # where it stands is written to its errors
            self.program.send_signal(signal.SIGUSR1)
            time.sleep(1.0)
        line = self.program.stdout.readline() if ready else b""
        assert line, f"no answer: {self.said()}"
        return json.loads(line)

    def ask(self, expression: str) -> Any:
        """The value of an expression in the program."""
        assert self.program.stdin is not None
        self.program.stdin.write(expression.encode() + b"\n")
        self.program.stdin.flush()
        answer = self._line()
        assert "value" in answer, f"{expression}: {answer}"
        return answer["value"]

    def until(self, expression: str) -> Any:
        """Wait until an expression is true."""
        end = time.monotonic() + PATIENCE_S
        while not (value := self.ask(f"bool({expression})")):
            assert time.monotonic() < end, f"never: {expression}. {self.said()}"
            time.sleep(0.02)
        return value

    def _do(self, *words: str) -> None:
        subprocess.run(["xdotool", *words], env=self.environment, check=True)
        self.ask("idle")

    def type(self, text: str) -> None:
        self._do("type", "--delay", "8", "--", text)

    def key(self, *names: str) -> None:
        for name in names:
            self._do("key", "--", name)

    def quit(self) -> int:
        """Leave the program by its key; its exit code."""
        subprocess.run(["xdotool", "key", "--", "ctrl+q"], env=self.environment, check=True)
        self.program.communicate(timeout=PATIENCE_S)
        return self.program.returncode

    def enter(self, text: str) -> None:
        """Type a line, and Enter."""
        self.type(text)
        self.key("Return")

    def move(self, place: str) -> None:
        x, y = (round(v * self.scale) for v in self.ask(place))
        self._do("mousemove", str(x), str(y))

    def click(self, place: str, *, button: int = 1, times: int = 1) -> None:
        """Press where an expression says, `[x, y]` on the screen."""
        self.move(place)
        self._do("click", "--repeat", str(times), "--delay", "60", str(button))

    def drag(self, start: str, end: str) -> None:
        self.move(start)
        x, y = self.ask(end)
        self._do("mousedown", "1")
        here = self.ask(start)
        self._do("mousemove", str((x + here[0]) // 2), str((y + here[1]) // 2))
        self._do("mousemove", str(x), str(y))
        self._do("mouseup", "1")
