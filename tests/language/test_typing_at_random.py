"""Whatever is typed or read: an answer, or one sentence; never anything else."""

import contextlib
from collections import Counter

from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.catalogue.registry import make_device
from kymaton.core.errors import FileError
from kymaton.core.joining import NO_PLUG, channel_pairs, why_not
from kymaton.core.loadin.budgets import lines_of as budgets_of
from kymaton.core.loadin.sheets import sheets_of
from kymaton.core.model import Show, ShowError
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.language.commands import read_command, suggestions
from kymaton.language.load_offers import load_offers
from kymaton.language.people import read_brief
from kymaton.language.script import build, read_any
from kymaton.language.starters import STARTERS
from kymaton.language.telling import lines_of
from kymaton.store.inputlist import add_inputs, parse_input_list
from kymaton.store.showfile import read_show
from tests.shows import DEMO


def is_out(show: Show, port: str) -> bool:
    return show.port(port).direction == "out"


DEMO_SHOW = read_show(DEMO)
WORDS = st.sampled_from(
    ["add", "desk", "set", "to", ">", "1", "9-10", "-6", "rename", "remove", "replace", "by", "call computer", "Maren",
     "aux 1", "headphones", "disconnect", "as", "16 in", "6 aux", ",", "voice", "host", "m", "0.3 m", "", "  ", "mute"]
)  # fmt: skip
LINES = st.lists(WORDS, max_size=8).map(" ".join) | st.text(max_size=40)


@given(LINES)
@settings(max_examples=300, deadline=None)
def test_a_line_on_the_map(line):
    try:
        patch = read_command(DEMO_SHOW, line, "guest-talk")
    except ShowError as error:
        assert "\n" not in str(error) or "\n" in line
    else:
        assert isinstance(patch.show, Show) and patch.text
    assert all(isinstance(s, str) for s in suggestions(DEMO_SHOW, line))


@given(LINES)
@settings(max_examples=200, deadline=None)
def test_a_line_of_the_brief(line):
    try:
        brief = read_brief(DEMO_SHOW, line)
    except (ShowError, ValueError) as error:
        assert isinstance(error, ShowError), error
    else:
        assert len(brief.show.sounds) + len(brief.show.listeners) > len(DEMO_SHOW.sounds) + len(DEMO_SHOW.listeners)


LOAD_WORDS = st.sampled_from(
    ["stock", "run", "uplink", "strip A", "circuit 1", "brick", "desk", "encoder", "camera", "platform",
     "capture", "Hall", "Stage", "gives", "hangs on", "meets", "is from", "travels in", "has address", "runs on",
     "is bought used", "to", "power", "is a strong computer", "nothing", "from", "4", "0", "12 V", "2 A", "10 m",
     "1e9", "-5", "XLR", "phono or 3.5 mm", "Anna", "2026-02-31", "case 1", "10.77.7.20", "999.1.1.1",
     ", up 3 m", ", 2 corners", ", to buy for 12", ", in case 2", "nan", "second 5 Mbit/s after 10 s",
     "20 Mbit/s", "2 MB/s", "sending rate is", "price is", "USB need is", "rack height is", "supply voltage is",
     "arm is", "500 mA", "1 kg", "± 3", "measured", "usb 1-2", "share one bus", "battery is", "2 h",
     "buy capture", "borrow desk", "instead of"]
)  # fmt: skip
RIG = next(s for s in STARTERS if s.id == "talk-with-mix-minus").show()


@given(st.lists(st.lists(LOAD_WORDS, min_size=2, max_size=7).map(" ".join), min_size=1, max_size=4))
@settings(max_examples=150, deadline=None)
def test_lines_about_the_load_in(lines):
    """What they make is told in lines again, budgeted and put on sheets."""
    show = RIG
    for line in lines:
        assert all(isinstance(offer, str) for offer in load_offers(show, line))
        with contextlib.suppress(ShowError):
            show = read_any(show, line).show
    if show is not RIG:
        assert build(lines_of(show)) == show
        assert budgets_of(show) and sheets_of(show)


@given(LINES)
@settings(max_examples=200, deadline=None)
def test_a_kind_of_device(text):
    with contextlib.suppress(ShowError):
        assert make_device(text, ["desk"]).id != "desk"


KINDS_OF_DEVICES = (
    "dynamic mic",
    "condenser mic",
    "interface 2 in 2 out",
    "usb desk 4 in 2 aux",
    "usb mixer 2 in",
    "podcast desk",
    "player",
    "computer",
    "call 1 guest",
    "call computer",
    "camera with sound",
    "encoding switcher",
    "capture",
    "streaming program 2 in",
    "headphones",
    "bluetooth headphones",
    "bluetooth sender",
    "loudspeakers",
    "platform",
    "track recorder",
    "y lead",
    "viewer",
    "de-embedder",
    "phone call",
    "usb mic",
    "screen",
    "hdmi splitter",
    "virtual sound",
    "computer mix 2 in",
    "handheld recorder",
    "stereo call 1 guest as Wide call",
    "streaming phone",
    "mirrorless camera",
    "pan tilt camera",
    "loop recorder",
    "router",
    "usb hub 2 ports",
    "dock 2 displays 2 usb",
    "vga to hdmi",
    "converting screen",
    "button panel",
    "player",
)
RIG = build(
    ["Ada, voice, host", "Tune, playback, stereo", "Organ, instrument, -10 dBu", "Audience", "Card, recorder", "Room"]
    + [f"add {kind}" for kind in KINDS_OF_DEVICES]
)
OUTS = sorted(p for p in (*RIG.ports, *(f"sound/{s.id}" for s in RIG.sounds)) if p not in RIG.ports or is_out(RIG, p))
INS = sorted(
    p for p in (*RIG.ports, *(f"listener/{x.id}" for x in RIG.listeners)) if p not in RIG.ports or not is_out(RIG, p)
)
MOST_LEVEL = {"dB SPL": 150.0, "dBu": 60.0, "dBFS": 30.0}


@given(st.lists(st.tuples(st.sampled_from(OUTS), st.sampled_from(INS)), min_size=1, max_size=60))
@settings(max_examples=60, deadline=None)
def test_whatever_is_plugged_fits_and_no_level_is_beyond_belief(leads):
    show, sockets = RIG, Counter()
    for source, target in leads:
        with contextlib.suppress(ShowError):
            show = read_any(show, f"{source} > {target}").show
    for cable in show.cables:
        assert why_not(show, cable.source, cable.target) is None
        if cable.kind not in NO_PLUG and cable.source in show.ports and show.port(cable.source).connector:
            sockets.update({(cable.source, a) for a, _ in channel_pairs(show, cable)} or {(cable.source, 0)})
    assert max(sockets.values(), default=1) == 1
    view = CueSolution(show, None)
    for listener, sound in view.arriving:
        assert view.level(listener, sound) <= MOST_LEVEL[listener.unit]
        assert all(b.delay_ms < 600_000 for b in view.bursts(listener, sound))


CELLS = st.text(alphabet="ab1,;\"'=\t\n \r\u00e9", max_size=8) | st.sampled_from(
    ["Name", "Ch", "Mic", "DI", "1", "voice"]
)


@given(st.lists(st.lists(CELLS, min_size=1, max_size=5).map(";".join), max_size=6).map("\n".join))
@settings(max_examples=300, deadline=None)
def test_an_input_list(text):
    try:
        inputs = parse_input_list(text, "a.csv")
        show = add_inputs(Show(), inputs)
    except (FileError, ShowError) as error:
        assert str(error)
    else:
        assert len(show.sounds) == len(inputs.rows)
