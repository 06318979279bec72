"""Jobs: how they end, and that what belongs to the interface is freed on its thread."""

import gc
import threading

import pytest
from PyQt6.QtCore import QThreadPool
from PyQt6.QtWidgets import QLabel

from kymaton.app.work import Job
from kymaton.core.errors import FileError, RenderError, Stopped


@pytest.fixture
def told(qtbot):
    """Runs a job to its end, and returns what was told of it, in order, each with the thread it was told on."""

    def run(work, *, stop=False):
        seen = []

        def hear(what):
            return lambda *values: seen.append((what, *values, threading.get_ident()))

        job = Job(work, **{what: hear(what) for what in ("done", "failed", "stopped", "progress")})
        if stop:
            job.stop()
        job.begin()
        qtbot.waitUntil(lambda: bool(seen) and seen[-1][0] != "progress")
        assert {each[-1] for each in seen} == {threading.get_ident()}
        return [each[:-1] for each in seen]

    return run


@pytest.mark.parametrize(
    ("error", "text"),
    [
        (FileError("No file."), "No file."),
        (RenderError("No sound."), "No sound."),
        (MemoryError(), "There is not enough memory for this."),
        (KeyError("x"), "This did not work, by a mistake in Kymaton (KeyError: 'x')."),
    ],
)
def test_a_job_that_fails_ends_in_one_sentence(told, error, text):
    def work(job):
        raise error

    assert told(work) == [("failed", text)]


def test_a_job_that_stops_says_so(told):
    def work(job):
        if not job.report(0.5):
            raise Stopped

    assert told(work, stop=True) == [("stopped",)]


def test_progress_comes_before_the_result(told):
    def work(job):
        return [job.report(0.25), job.part(1, 2)(0.5)]

    assert told(work) == [("progress", 0.25), ("progress", 0.75), ("done", [True, True])]


def test_a_stopped_job_tells_no_more_progress(told):
    assert told(lambda job: [job.report(n / 10) for n in range(3)], stop=True) == [("done", [False, False, False])]


def test_a_widget_closed_meanwhile_is_not_told(qapp, qtbot):
    go, ended, label = threading.Event(), [], QLabel("before")
    Job(lambda job: go.wait(60) and "after", label.setText).begin()
    Job(lambda job: go.wait(60), ended.append).begin()
    label.deleteLater()
    label.destroyed.connect(go.set)
    qtbot.waitUntil(lambda: bool(ended))
    pool = QThreadPool.globalInstance()
    assert pool is not None
    pool.waitForDone()  # an error in what is told would fail the test


class Freed:
    """Notes the thread on which it is freed; stands for a widget, which only one thread may free."""

    def __init__(self, on: list[int]) -> None:
        self.on = on

    def __del__(self) -> None:
        self.on.append(threading.get_ident())


def test_what_a_job_holds_is_freed_on_the_thread_of_the_interface(qapp, qtbot):
    freed: list[int] = []
    ended: list[object] = []
    for _ in range(200):
        held = Freed(freed)
        Job(lambda job, held=held: None, ended.append).begin()
    del held
    qtbot.waitUntil(lambda: len(ended) == 200 and len(freed) == 200)
    assert set(freed) == {threading.get_ident()}


def test_garbage_is_collected_on_the_thread_of_the_interface(qapp, qtbot):
    freed: list[int] = []
    ended: list[object] = []
    for _ in range(20):
        circle = [Freed(freed)]
        circle.append(circle)
    del circle

    def litter(job):
        for _ in range(20 * gc.get_threshold()[0]):
            circle = [1]
            circle.append(circle)

    Job(litter, ended.append).begin()
    qtbot.waitUntil(lambda: bool(ended) and len(freed) == 20)
    assert set(freed) == {threading.get_ident()}
