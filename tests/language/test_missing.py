"""What is to be bought: the cheapest way that loses nothing comes first."""

from kymaton.cli.main import main
from kymaton.core.model import Show
from kymaton.language.missing import missing_of
from kymaton.language.script import build
from kymaton.store.showfile import write_show

TALK = ("Ada, voice, host", "Bob, operator", "add dynamic mic", "add desk 4 in 1 aux as Desk", "add headphones",
        "ada > dynamic mic 0.1 m", "dynamic mic > desk 1", "desk aux 1 > headphones", "headphones > bob",
        "set desk 1 gain to 54", "set desk 1 to aux 1 to 0", "Bob must hear Ada")  # fmt: skip


def test_what_is_needed_is_bought_and_what_is_not_is_left():
    show = build([*TALK, "buy dynamic mic", "dynamic mic price is 90 stated", "add desk 4 in 1 aux as Spare",
                  "buy Spare", "Spare price is 300 stated"])  # fmt: skip
    found = {m.device: m.options for m in missing_of(show)}
    mic, spare = found["dynamic-mic"], found["spare"]
    assert (mic[0].name, mic[0].price, mic[0].lost) == ("buy it", 90.0, ()) and mic[-1].lost
    assert spare[0].name.startswith("go on without the spare") and spare[0].price == 0.0 and not spare[0].lost


def test_another_way_is_weighed_against_it():
    show = build([*TALK, "buy dynamic mic", "dynamic mic price is 90 stated", "add dynamic mic as Old mic",
                  "way Old one", "in way Old one: replace dynamic mic by dynamic mic as Other",
                  "in way Old one: own Other"])  # fmt: skip
    [mic] = missing_of(show)
    names = [o.name for o in mic.options]
    assert "the way Old one" in names or names[0].startswith("the old mic takes its place")
    assert mic.options[0].price == 0.0 and mic.options[0].lost == ()


def test_it_is_told_on_the_command_line(tmp_path, capsys):
    path = tmp_path / "show.kymaton"
    write_show(build([*TALK, "buy dynamic mic"]), path)
    assert main(["loadin", str(path), "--missing"]) == 0
    said = capsys.readouterr().out
    assert "best: buy it, no price" in said and "lost: " in said
    write_show(build([*TALK, "stock 2 XLR 1 m", "stock 1 XLR 5 m, to buy for 9"]), path)
    assert main(["loadin", str(path), "--missing"]) == 0
    assert "Leads to buy: 1 XLR 5 m and " in capsys.readouterr().out
    write_show(Show(), path)
    assert main(["loadin", str(path), "--missing"]) == 0 and "Nothing is to be bought." in capsys.readouterr().out
