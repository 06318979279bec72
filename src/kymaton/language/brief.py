"""The brief by typing, with pictures: `Camera A, camera`, `Slides, picture`, `Programme screen, screen`.

What shows or takes pictures is a device of the catalogue; everything else is as `core.brief` has it.
"""

from kymaton.core.model import Show, ShowError
from kymaton.language.commands import read_command
from kymaton.language.people import Brief, read_brief

PICTURES = {"camera": "camera", "webcam": "webcam", "picture": "slides", "slides": "slides", "laptop": "laptop",
            "screen": "screen"}  # fmt: skip


def read_line(show: Show, line: str) -> Brief:
    """What a line of the brief adds. Raises ShowError with one sentence when it says too little."""
    parts = [p.strip() for p in line.split(",") if p.strip()]
    words = [p.lower() for p in parts[1:]]
    kinds = [PICTURES[w] for w in words if w in PICTURES]
    if not kinds:
        return read_brief(show, line)
    if any(d.name.lower() == parts[0].lower() for d in show.devices):
        raise ShowError(f"There is a device called {parts[0]} already.")
    patch = read_command(show, f"add {kinds[0]} as {parts[0]}")
    after = patch.show
    for place in (p[3:] for p in parts[1:] if p.lower().startswith("in ") and p[3:].strip()):
        after = read_command(after, f"put {parts[0]} in {place}").show
    return Brief(after, f"add {parts[0]}, {words[0]}")
