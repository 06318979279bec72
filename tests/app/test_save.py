"""What is on the disk is somebody's: another program's save is not written over unasked."""

import os

from PyQt6.QtWidgets import QPushButton

from kymaton.store.showfile import read_show, write_show
from tests.shows import DEMO


def notices(window) -> list[str]:
    return [b.text() for b in window.findChildren(QPushButton) if b.isVisible() and b.text().startswith("Save ")]


def test_a_file_that_changed_meanwhile_is_asked_for(make_window, tmp_path, qtbot):
    path = tmp_path / "mine.kymaton"
    path.write_bytes(DEMO.read_bytes())
    window = make_window(path, copy=False)
    document = window.document
    document.edit(document.show.evolve(title="Mine"), "title")
    write_show(read_show(path).evolve(title="Theirs"), path)
    window.files.save()
    assert read_show(path).title == "Theirs" and not document.is_clean
    [over] = [b for b in window.findChildren(QPushButton) if b.text() == "Save over it"]
    over.click()
    assert read_show(path).title == "Mine" and document.is_clean
    assert read_show(path.with_name("mine.kymaton.previous")).title == "Theirs"  # what was there is kept


def test_ones_own_saves_and_a_file_that_is_gone_ask_nothing(make_window, tmp_path, qtbot):
    path = tmp_path / "mine.kymaton"
    path.write_bytes(DEMO.read_bytes())
    window = make_window(path, copy=False)
    for title in ("One", "Two"):
        window.document.edit(window.document.show.evolve(title=title), "title")
        window.files.save()
        assert read_show(path).title == title
    os.unlink(path)  # noqa: PTH108
    window.document.edit(window.document.show.evolve(title="Three"), "title")
    window.files.save()
    assert read_show(path).title == "Three" and notices(window) == []
    qtbot.waitUntil(lambda: window.document.report is not None)
