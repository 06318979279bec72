"""What a picture of a widget shows, as far as a test can tell."""

from PyQt6.QtWidgets import QWidget


def colours(widget: QWidget, step: int = 7) -> set[str]:
    """Colours of a widget as it is painted; an empty one has one or two."""
    image = widget.grab().toImage()
    return {
        image.pixelColor(x, y).name() for x in range(0, image.width(), step) for y in range(0, image.height(), step)
    }
