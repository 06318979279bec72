"""What has been said about the load-in, line by line: looked through, said anew, taken back."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QListWidget

from kymaton.app.document import Document
from kymaton.app.widgets.basic import Page, button, label
from kymaton.core.errors import ShowError
from kymaton.language.load_lines import lines_of_load
from kymaton.language.script import read_any

SAYS = "\n".join(
    (
        "Circuits, strips, bricks: strip A gives 10 A · strip A hangs on circuit 1 · brick gives 12 V 2 A · power desk "
        "from strip A",
        "Runs: run Stage to Desk 12 m, 2 corners, up 3 m, crossing 2 m",
        "Leads that are there: stock 4 XLR 10 m · stock 1 HDMI 15 m, to buy for 20",
        "Sockets of the house that nobody knows: desk main meets XLR, phono or 3.5 mm",
        "Gear: desk is from Anna, back 2026-12-14 · camera 1 travels in case 2 · camera 1 price is 300 · camera 2 is "
        "bought used",
        "The line: uplink 20 Mbit/s, second 5 Mbit/s after 10 s · encoder sending rate is 6000 kbit/s",
        "Figures: webcam 1 USB current is 400 ± 100 mA stated · laptop charging need is 60 W · mic 1 arm is 1.5 m",
        "Network, computers: switcher has address 10.77.7.20 · laptop USB 1-2 share one bus · viewer runs on laptop · "
        "encoder is a strong computer",
    )
)


class KnownPage(Page):
    """The lines above; below what else can be said."""

    chosen = pyqtSignal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.lines: list[tuple[str, str]] = []
        layout = self.column
        row = QHBoxLayout()
        self.about = label("", "soft", wrap=True)
        row.addWidget(self.about, 1)
        self.back_button = button("Take back", self.take_back, "", "The chosen line is no longer known (Delete)")
        row.addWidget(self.back_button)
        layout.addLayout(row)
        self.list = QListWidget()
        self.list.setAccessibleName("What is known of the load-in")
        self.list.itemDoubleClicked.connect(lambda item: self.chosen.emit(item.text()))
        self.list.itemActivated.connect(lambda item: self.chosen.emit(item.text()))
        QShortcut(QKeySequence.StandardKey.Delete, self.list, self.take_back,
                  context=Qt.ShortcutContext.WidgetShortcut)  # fmt: skip
        layout.addWidget(self.list, 1)
        layout.addWidget(label("What else can be said", "heading"))
        layout.addWidget(label(SAYS, "small", wrap=True))
        document.report_changed.connect(self.refresh)

    def focus_first(self) -> None:
        self.list.setFocus()

    def refresh(self) -> None:
        """The lines as the show is now."""
        if not self.isVisible():
            return
        at = self.list.currentRow()
        self.lines = lines_of_load(self.document.show)
        self.list.clear()
        self.list.addItems([line for line, _ in self.lines])
        self.list.setCurrentRow(min(max(at, 0), len(self.lines) - 1))
        self.back_button.setEnabled(bool(self.lines))
        some = "Enter puts a line above, to say it anew; Delete takes it back."
        self.about.setText(some if self.lines else "Nothing has been said yet. Say it in the line above.")

    def take_back(self) -> None:
        """The chosen line is no longer known."""
        row = self.list.currentRow()
        if not 0 <= row < len(self.lines):
            return
        line, back = self.lines[row]
        try:
            after = read_any(self.document.show, back).show
        except ShowError as error:
            self.document.message.emit(str(error))
            return
        self.document.edit(after, f"no longer: {line}")
