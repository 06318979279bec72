"""What the window does with files: open, save, import, export, begin anew, offer back."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog, QWidget

from kymaton.app.document import Document
from kymaton.app.settings import Settings
from kymaton.core.edits.rig import started_from
from kymaton.core.errors import FileError, NewerFile
from kymaton.core.model import Show
from kymaton.store.demo import demo_show
from kymaton.store.recovery import RecoveredWork, discard, kept_work
from kymaton.store.showfile import SUFFIX, read_show

if TYPE_CHECKING:
    from kymaton.app.brief.view import BriefView
    from kymaton.app.path.view import PathView
    from kymaton.language.starters import Starter

FILTER = f"Kymaton shows (*{SUFFIX});;All files (*)"
LISTS = "Input lists (*.csv);;All files (*)"


class FileWork:
    """The part of the window that works with files. What fails is said in a notice; what was open stays open."""

    document: Document
    settings: Settings
    notice: Callable[..., None]
    go: Callable[[str], None]
    offer_guide: Callable[[], None]

    @property
    def brief(self) -> "BriefView":
        raise NotImplementedError

    @property
    def path(self) -> "PathView":
        raise NotImplementedError

    @property
    def _over(self) -> QWidget:
        """The window, for dialogs to stand over."""
        assert isinstance(self, QWidget)
        return self

    def new(self) -> None:
        """An empty show, ready for the first line about who takes part."""
        self.document.replace(Show(), None)
        self.go("brief")

    def open(self, path: Path) -> None:
        try:
            self.document.open(path)
        except NewerFile as newer:
            self._open_newer(path, newer)
        except FileError as error:
            self.notice(str(error))
        else:
            self.settings.opened(path)
            self.go("hearing")

    def _open_newer(self, path: Path, newer: NewerFile) -> None:
        """Show what can be understood of a newer file, as a copy that has no file yet."""
        try:
            self.document.replace(read_show(path, newer=True), None, path.parent)
        except FileError as error:
            self.notice(str(error))
            return
        self.notice(f"{newer} It is shown as a copy; the file itself is never written over.")

    def open_demo(self) -> None:
        try:
            self.document.open_copy(demo_show())
        except (FileError, FileNotFoundError) as error:
            self.notice(f"The demo cannot be opened: {error}")
        else:
            self.go("hearing")
            self.offer_guide()

    def ask_open(self) -> None:
        start = str(self.document.path.parent if self.document.path else Path.home())
        chosen, _ = QFileDialog.getOpenFileName(self._over, "Open a show", start, FILTER)
        if chosen:
            self.open(Path(chosen))

    def save(self) -> None:
        if self.document.path is None:
            self.ask_save()
        else:
            self.save_to(self.document.path)

    def ask_save(self) -> None:
        name = "".join(c if c.isalnum() else "-" for c in self.document.show.title.lower()).strip("-") or "show"
        start = self.document.path or Path.home() / f"{name}{SUFFIX}"
        chosen, _ = QFileDialog.getSaveFileName(self._over, "Save the show", str(start), FILTER)
        if chosen:
            path = Path(chosen)
            self.save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def save_to(self, path: Path) -> None:
        try:
            self.document.save(path)
        except FileError as error:
            self.notice(str(error))
            return
        self.settings.opened(path)

    def ask_import(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self._over, "Import an input list", str(Path.home()), LISTS)
        if chosen:
            self.import_list(Path(chosen))

    def import_list(self, path: Path) -> None:
        """Preview an input list in the brief."""
        try:
            self.brief.import_list(path)
        except FileError as error:
            self.notice(str(error))
            return
        self.go("brief")

    def ask_export(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self._over, "Export the input list", str(Path.home() / "inputs.csv"), LISTS
        )
        if chosen:
            self.export_list(Path(chosen))

    def export_list(self, path: Path) -> None:
        from kymaton.store.inputlist import write_input_list

        try:
            many = write_input_list(self.document.show, path)
        except FileError as error:
            self.notice(str(error))
            return
        self.notice(f"{many} inputs written to {path}.")

    def ask_export_map(self) -> None:
        start = str(Path.home() / "path.svg")
        chosen, _ = QFileDialog.getSaveFileName(self._over, "Export the map", start, "SVG (*.svg)")
        if chosen:
            self.export_map(Path(chosen))

    def export_map(self, path: Path) -> None:
        self.go("path")
        try:
            self.path.export_map(path)
        except FileError as error:
            self.notice(str(error))
            return
        self.notice(f"The map was written to {path}.")

    def ask_print_map(self) -> None:
        from PyQt6.QtPrintSupport import QPrintDialog, QPrinter  # late: it looks for printers

        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        self.go("path")
        if QPrintDialog(printer, self._over).exec():
            self.path.print_map(printer)
            self.notice("The map went to the printer.")

    def offer_kept(self) -> None:
        """Offer back what was not saved when Kymaton ended."""
        for kept in kept_work()[:2]:
            when = kept.when.strftime("%d %b, %H:%M")
            self.notice(
                f"Unsaved work on {kept.title}, {when}, was kept.",
                ("Open it", lambda kept=kept: self._restore(kept)),
                ("Throw it away", lambda kept=kept: discard(kept)),
            )

    def _restore(self, kept: RecoveredWork) -> None:
        try:
            show = kept.show()
        except FileError as error:
            self.notice(str(error))
            return
        self.document.replace(show, kept.original, kept.folder, restored=True)
        self.document.keep()
        discard(kept)

    def start_from_this(self) -> None:
        """A new show with the rig and the people of this one."""
        show = started_from(self.document.show, f"{self.document.show.title}, next")
        self.document.replace(show, None, self.document.folder, restored=True)

    def start_from(self, starter: "Starter") -> None:
        """A new show from one of the starter rigs."""
        self.document.replace(starter.show(), None, None, restored=True)
        self.go("hearing")
        self.notice(f"{starter.title}. {starter.about}")
