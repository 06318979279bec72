"""What was last found in a file: remembered, told as a memory, forgotten when there is too much of it."""

import datetime
import json

from kymaton.store import last_verdict
from kymaton.store.last_verdict import remember, verdicts_folder

NOW = datetime.datetime(2026, 11, 27, 9, 5)


def test_what_was_found_is_known_at_the_next_start(tmp_path):
    file = tmp_path / "a.kymaton"
    file.write_text("{}")
    assert last_verdict.last_verdict(file) is None
    remember(file, "Evening", "3 faults", ["Ilse hears herself", "No recording"], NOW)
    known = last_verdict.last_verdict(file)
    assert known is not None and known.current and known.when == NOW
    assert (known.title, known.verdict, known.headlines) == (
        "Evening",
        "3 faults",
        ("Ilse hears herself", "No recording"),
    )


def test_a_file_that_changed_since_is_said_to_have(tmp_path):
    file = tmp_path / "a.kymaton"
    file.write_text("{}")
    remember(file, "Evening", "3 faults", [], NOW)
    file.write_text('{"title": 1}')
    known = last_verdict.last_verdict(file)
    assert known is not None and not known.current
    file.unlink()
    assert last_verdict.last_verdict(file) is None


def test_what_cannot_be_read_is_not_known_and_what_cannot_be_written_is_not_kept(tmp_path, monkeypatch):
    file = tmp_path / "a.kymaton"
    file.write_text("{}")
    remember(file, "Evening", "3 faults", [], NOW)
    [kept] = verdicts_folder().glob("*.json")
    whole = json.loads(kept.read_text("utf-8"))
    for broken in ("", "[]", "{}", json.dumps({**whole, "when": "soon"}), json.dumps({**whole, "file": "/other"})):
        kept.write_text(broken)
        assert last_verdict.last_verdict(file) is None
    (tmp_path / "blocked").write_text("")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "blocked"))
    remember(file, "Evening", "3 faults", [], NOW)  # says nothing, keeps nothing


def test_only_the_newest_are_kept(tmp_path, monkeypatch):
    monkeypatch.setattr(last_verdict, "MOST_KEPT", 3)
    for number in range(6):
        file = tmp_path / f"{number}.kymaton"
        file.write_text("{}")
        remember(file, f"Show {number}", "Nothing wrong", [], NOW)
    assert len(list(verdicts_folder().glob("*.json"))) == 3
    assert last_verdict.last_verdict(tmp_path / "5.kymaton") is not None
