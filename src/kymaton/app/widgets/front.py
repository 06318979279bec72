"""What stands in the window until the show is there: its name, and what was found in it the last time."""

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from kymaton.app.widgets.basic import label
from kymaton.store.last_verdict import LastVerdict


def remembered(known: LastVerdict | None) -> list[str]:
    """What is known of a show before it is read, and that it is a memory."""
    if known is None:
        return ["Being opened."]
    when = f"{known.when.day} {known.when:%b, %H:%M}"
    if not known.current:
        return [f"The file has changed since it was last examined, {when}.", "Being examined anew."]
    return [f"{known.verdict} when last examined, {when}.", "Being examined anew."]


class Front(QWidget):
    """A page with the name of a show, and the memory of what was found in it."""

    def __init__(self, title: str, known: LastVerdict | None) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 16, 10)
        layout.setSpacing(8)
        layout.addWidget(label(title, "title", wrap=True))
        layout.addWidget(label("\n".join(remembered(known)), "soft", wrap=True))
        if known is not None and known.current:
            layout.addWidget(label("\n".join(known.headlines), "", wrap=True))
        layout.addStretch(1)
