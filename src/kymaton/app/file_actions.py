"""What the window does with files: open, save, import, export, begin anew, offer back."""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from kymaton.app.document import opening_cue
from kymaton.app.kinds import FILMS, SOUNDS
from kymaton.app.work import Job
from kymaton.core.checks.report import CueReport
from kymaton.core.edits.next_show import started_from
from kymaton.core.errors import ChangedFile, FileError, NewerFile, Stopped
from kymaton.core.model import Show
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.store.demo import demo_show
from kymaton.store.recovery import RecoveredWork, discard, kept_work, sweep_left
from kymaton.store.showfile import SUFFIX, is_large, read_show

if TYPE_CHECKING:
    from kymaton.app.window import Window
    from kymaton.language.starters import Starter

FILTER = f"Kymaton shows (*{SUFFIX});;All files (*)"


def list_suffixes() -> tuple[str, ...]:
    """How the names of input lists end."""
    from kymaton.store.inputlist import SUFFIXES  # late: it brings the catalogue along

    return SUFFIXES


def _lists() -> str:
    return f"Input lists ({' '.join(f'*{suffix}' for suffix in list_suffixes())});;All files (*)"


def _read_and_solve(path: Path, job: Job) -> "tuple[Show, CueReport] | NewerFile":
    """The show and what is said of the cue that it opens with. Raises FileError and Stopped."""
    try:
        show = read_show(path)
    except NewerFile as newer:
        return newer
    _go_on(job, 0.3)
    view = CueSolution(show, opening_cue(show))
    _go_on(job, 0.5)
    report = CueReport(view)
    _go_on(job, 0.8)
    assert report.cells is not None and report.cards is not None  # worked out here, and then looked up
    return show, report


def _go_on(job: Job, part: float) -> None:
    """So far it is; parts are of the time that a show of 46 MB took."""
    if not job.report(part):
        raise Stopped


class FileActions:
    """What fails is said in a notice of the window; what was open stays open."""

    def __init__(self, window: "Window") -> None:
        self.window, self.document, self.settings = window, window.document, window.settings

    def new(self) -> None:
        """An empty show, ready for the first line about who takes part."""
        self.document.replace(Show(), None)
        self.window.go("brief")

    def open(self, path: Path) -> None:
        """Open a show; a large one is read and worked out beside what is open, which stays until then."""
        if is_large(path):
            what = f"Opening {path.name}, {path.stat().st_size / 1e6:.0f} MB"
            self.window.work_row.start(partial(_read_and_solve, path), what, partial(self._opened, path))
            return
        try:
            self.document.open(path)
        except NewerFile as newer:
            self._open_newer(path, newer)
        except FileError as error:
            self.window.notice(str(error))
        else:
            self.settings.opened(path)
            self.window.go("hearing")

    def _opened(self, path: Path, found: "tuple[Show, CueReport] | NewerFile") -> None:
        if isinstance(found, NewerFile):
            self._open_newer(path, found)
            return
        show, report = found
        self.document.replace(show, path, worked_out=report)
        self.settings.opened(path)
        self.window.go("hearing")

    def _open_newer(self, path: Path, newer: NewerFile) -> None:
        """Show what can be understood of a newer file, as a copy that has no file yet."""
        try:
            self.document.replace(read_show(path, newer=True), None, path.parent)
        except FileError as error:
            self.window.notice(str(error))
            return
        self.window.notice(f"{newer} It is shown as a copy; the file itself is never written over.")

    def open_demo(self) -> None:
        try:
            self.document.open_copy(demo_show())
        except (FileError, FileNotFoundError) as error:
            self.window.notice(f"The demo cannot be opened: {error}")
        else:
            self.window.go("hearing")
            self.window.offer_guide()

    def ask_open(self) -> None:
        start = str(self.document.path.parent if self.document.path else Path.home())
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Open a show", start, FILTER)
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
        chosen, _ = QFileDialog.getSaveFileName(self.window, "Save the show", str(start), FILTER)
        if chosen:
            path = Path(chosen)
            self.save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def save_to(self, path: Path, over: bool = False) -> None:
        try:
            self.document.save(path, over)
        except ChangedFile as error:
            ways = (("Save over it", partial(self.save_to, path, True)), ("Save under another name", self.ask_save))
            self.window.notice(str(error), *ways)
            return
        except FileError as error:
            self.window.notice(str(error))
            return
        self.settings.opened(path)

    def ask_import(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Import an input list", str(Path.home()), _lists())
        if chosen:
            self.import_list(Path(chosen))

    def import_list(self, path: Path) -> None:
        """Preview an input list in the brief."""
        try:
            self.window.brief.import_list(path)
        except FileError as error:
            self.window.notice(str(error))
            return
        self.window.go("brief")

    def ask_export(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self.window, "Export the input list", str(Path.home() / "inputs.csv"), _lists()
        )
        if chosen:
            self.export_list(Path(chosen))

    def export_list(self, path: Path) -> None:
        from kymaton.store.inputlist import write_input_list

        try:
            many = write_input_list(self.document.show, path)
        except FileError as error:
            self.window.notice(str(error))
            return
        self.window.notice(f"{many} inputs written to {path}.")

    def ask_export_map(self) -> None:
        start = str(Path.home() / "path.svg")
        chosen, _ = QFileDialog.getSaveFileName(self.window, "Export the map", start, "SVG (*.svg)")
        if chosen:
            self.export_map(Path(chosen))

    def export_map(self, path: Path) -> None:
        self.window.go("path")
        try:
            self.window.path.export_map(path)
        except FileError as error:
            self.window.notice(str(error))
            return
        self.window.notice(f"The map was written to {path}.")

    def ask_print_map(self) -> None:
        from PyQt6.QtPrintSupport import QPrintDialog, QPrinter  # late: it looks for printers

        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        self.window.go("path")
        dialog = QPrintDialog(printer, self.window)
        wanted = dialog.exec()
        dialog.deleteLater()
        if wanted:
            self.window.path.print_map(printer)
            self.window.notice("The map went to the printer.")

    def offer_kept(self) -> None:
        """Offer back what was not saved when Kymaton ended."""
        for kept in kept_work()[:2]:
            when = kept.when.strftime("%d %b, %H:%M")
            self.window.notice(
                f"Unsaved work on {kept.title}, {when}, was kept.",
                ("Open it", partial(self._restore, kept)),
                ("Throw it away", partial(discard, kept)),
            )

    def sweep(self) -> None:
        """Take away what writings that were cut off have left, where shows were opened lately."""
        folders = {path.parent for path in self.window.settings.recent}
        Job(lambda job: sweep_left(folders)).begin()

    def _restore(self, kept: RecoveredWork) -> None:
        try:
            show = kept.show()
        except FileError as error:
            self.window.notice(str(error))
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
        self.window.go("hearing")
        self.window.notice(f"{starter.title}. {starter.about}")

    # what is dropped on the window

    @staticmethod
    def takes(path: Path) -> bool:
        return path.name.lower().endswith((SUFFIX, *list_suffixes(), *FILMS, *SOUNDS))

    def dropped(self, paths: list[Path]) -> None:
        """Recordings go to Sync, or to Levels where that is in view; of lists and shows the first is opened."""
        media = [p for p in paths if p.suffix.lower() in (*FILMS, *SOUNDS)]
        if media and self.window.current == "levels":
            self.window.levels.dropped(media)
            return
        if media:
            self.window.go("sync")
            self.window.sync.dropped(media)
            return
        for path in paths:
            if path.suffix.lower() in list_suffixes():
                self.import_list(path)
                return
            if path.suffix == SUFFIX:
                self.open(path)
                return
