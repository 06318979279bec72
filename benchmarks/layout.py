"""Placing the path map: of the demo, and of a rig of 60 devices with 200 leads."""

from collections.abc import Callable

from benchmarks.timing import best
from kymaton.app.path.layout import lay_out
from kymaton.core.model import Listener, Show, Sound
from kymaton.language.commands import read_command
from kymaton.store.demo import demo_show
from kymaton.store.showfile import read_show

HELD: list[object] = []  # what Qt would drop when nobody holds it


def large_rig() -> Show:
    """A hall: 32 voices, two stage boxes, two desks, eight cameras, 60 devices in all, about 200 leads."""
    voices = tuple(Sound(id=f"v{n}", name=f"Voice {n}", kind="voice", level=66.0) for n in range(1, 33))
    ears = tuple(Listener(id=f"p{n}", name=f"Player {n}", kind="performer") for n in range(1, 9))
    show = Show(sounds=voices, listeners=(*ears, Listener(id="out", name="Audience", kind="audience")))
    lines = ["add desk 64 in 8 aux", "add desk 64 in 8 aux as Stream desk"]
    for side in (1, 2):
        lines += [f"add stage box 32 ch as Box {side}"]
    lines += [f"add dynamic mic as Mic {n}" for n in range(1, 33)]
    lines += [f"voice {n} > mic {n}" for n in range(1, 33)]
    lines += [f"mic {n} > box 1 {n}" for n in range(1, 33)]
    lines += ["box 1 1-32 > desk 1-32", "box 2 1-32 > stream desk 1-32"]
    lines += [f"add isolator 1 ch as Split {n}" for n in range(1, 9)]
    lines += [f"split {n} > desk {32 + n}" for n in range(1, 9)]
    for n in range(1, 9):
        lines += [f"add in-ear as In-ear {n}", f"desk aux {n} > in-ear {n}", f"in-ear {n} > player {n}"]
        lines += [f"add camera as Camera {n}"]
    lines += ["add switcher 8 in", *(f"camera {n} > switcher HDMI {n}" for n in range(1, 9))]
    lines += ["stream desk main > switcher mic 1", "add capture", "add encoder", "add platform"]
    lines += ["switcher programme > capture", "capture > encoder", "encoder > platform", "platform > audience"]
    lines += ["add recorder", "switcher programme 2 > recorder"]
    for line in lines:
        show = read_command(show, line).show
    return show


def run() -> list[tuple[str, str, str]]:
    rows = []
    for name, show in (("the demo", read_show(demo_show())), ("a hall", large_rig())):
        seconds = best(lambda show=show: lay_out(show, 780, 500), 5)
        size = f"{len(show.devices)} devices, {len(show.cables)} leads"
        drawn = best(_redraw(show), 5)
        told = f"{seconds * 1000:.1f} ms, with drawing {drawn * 1000:.0f} ms"
        rows.append((f"path map of {name} ({size}), placed", told, "≤ 50 ms"))
    return rows


def _redraw(show: Show) -> Callable[[], None]:
    """Place the map anew and draw what of it can be seen in a window of 1280 × 800."""
    from kymaton.app.document import Document
    from kymaton.app.path.view import PathView
    from kymaton.app.run import application

    running = application()
    HELD.append(running)
    view = PathView(Document(show))
    view.resize(820, 740)
    view.show()
    running.processEvents()

    HELD.append(view)

    def redraw() -> None:
        view.map._shape = ()
        view.map.refresh()
        view.area.grab()

    return redraw
