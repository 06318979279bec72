"""Where the demo shows are: in the installed package, or at the root of the project."""

from pathlib import Path

DEMO = "harbour-almanac.kymaton"
HEALTHY = "harbour-almanac-healthy.kymaton"


def demo_show(name: str = DEMO) -> Path:
    """Path of a demo show, its stems beside it."""
    package = Path(__file__).resolve().parent.parent
    for folder in (package / "demo", package.parent.parent / "demo"):
        if (folder / name).is_file():
            return folder / name
    raise FileNotFoundError(name)
