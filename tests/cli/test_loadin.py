"""`kymaton loadin` and `kymaton budget`, as they are called."""

import csv
import json

import pytest

from kymaton.cli.main import main
from kymaton.store.showfile import read_show
from tests.shows import DEMO, HEALTHY


def test_sheets_as_text_json_and_one_alone(capsys):
    assert main(["loadin", str(DEMO)]) == 0
    said = capsys.readouterr().out
    assert "Cable schedule" in said and "Order of work" in said
    assert main(["loadin", str(DEMO), "--json", "--only", "cables"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [s["id"] for s in told["sheets"]] == ["cables"] and told["sheets"][0]["rows"][0]["key"].startswith("lead:")
    assert main(["loadin", str(DEMO), "--only", "nothing"]) == 2
    assert main(["loadin", str(DEMO), "--hands", "0"]) == 2


def test_files_that_are_written(tmp_path, capsys, qapp):
    for name in ("a.pdf", "a.csv", "a.html"):
        assert main(["loadin", str(DEMO), "-o", str(tmp_path / name)]) == 0
    assert (tmp_path / "a.pdf").read_bytes().startswith(b"%PDF")
    rows = list(csv.reader((tmp_path / "a.csv").read_text(encoding="utf-8").splitlines()))
    assert ["Cable schedule"] in rows
    assert main(["loadin", str(DEMO), "--labels", "60x24", "-o", str(tmp_path / "l.pdf")]) == 0
    assert main(["loadin", str(DEMO), "-o", str(tmp_path / "a.doc")]) == 2
    assert main(["loadin", str(DEMO), "--labels", "60x24"]) == 2
    assert main(["loadin", str(DEMO), "--labels", "huge", "-o", str(tmp_path / "x.pdf")]) == 2
    assert not (tmp_path / "x.pdf").exists() and not (tmp_path / "a.doc").exists()


def test_ticks_are_read_back(tmp_path, capsys):
    ticks = tmp_path / "ticks.json"
    title = read_show(DEMO).title
    ticks.write_text(json.dumps({"format": "kymaton-ticks", "show": title, "ticks": [
        {"sheet": "packed", "item": "device:desk", "date": "2026-12-12"}]}))  # fmt: skip
    out = tmp_path / "ticked.kymaton"
    assert main(["loadin", str(DEMO), "--ticks", str(ticks), "-o", str(out)]) == 1
    assert "not packed: Switcher 4 in, embeds" in capsys.readouterr().out
    assert read_show(out).ticks[0].item == "device:desk"
    ticks.write_text("soon")
    assert main(["loadin", str(DEMO), "--ticks", str(ticks)]) == 2
    assert main(["loadin", str(DEMO), "--ticks", str(tmp_path / "none.json")]) == 2


def test_the_day_goes_on(tmp_path, capsys):
    out = tmp_path / "after.kymaton"
    assert main(["loadin", str(HEALTHY), "--without", "Camera B", "-o", str(out)]) == 0
    said = capsys.readouterr().out
    assert "best: go on without camera B" in said
    assert "camera-b" not in {d.id for d in read_show(out).devices}
    assert main(["loadin", str(HEALTHY), "--without", "drone"]) == 2


def test_budgets_of_the_demo_and_of_the_healthy_one(capsys):
    assert main(["budget", str(DEMO), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    bad = {x["area"] for x in told["budgets"] if x["fits"] == "does not fit"}
    assert bad == {"Uplink", "USB", "Power", "Runs"} and told["usb_plan"] == ["Take a USB 3 lead for the capture."]
    assert main(["budget", str(HEALTHY)]) == 0
    assert "does not fit" not in capsys.readouterr().out
    assert main(["budget"]) == 2


@pytest.mark.parametrize("name", ["dip", "evening", "mobile"])
def test_the_traces_that_come_along(name, capsys, tmp_path):
    code = main(["budget", str(HEALTHY), "--trace", name, "--store", "1"])
    assert code in (0, 1) and "the buffer holds up to" in capsys.readouterr().out
    path = tmp_path / "line.csv"
    path.write_text("60,12\n30,2\n120,12\n")
    if name == "dip":
        from_file = main(["budget", str(HEALTHY), "--trace", str(path), "--store", "1"])
        assert from_file == code == 1


def test_this_computer_is_measured(capsys):
    assert main(["budget", "--measure"]) == 0
    said = capsys.readouterr().out
    assert "Mpx/s (measured" in said and "encoding speed is" in said
