"""Whatever is typed or read: an answer, or one sentence; never anything else."""

import contextlib

from hypothesis import given, settings
from hypothesis import strategies as st

from kymaton.catalogue.registry import make_device
from kymaton.core.errors import FileError
from kymaton.core.model import Show, ShowError
from kymaton.language.commands import read_command, suggestions
from kymaton.language.people import read_brief
from kymaton.store.inputlist import add_inputs, parse_input_list
from kymaton.store.showfile import read_show
from tests.shows import DEMO

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


@given(LINES)
@settings(max_examples=200, deadline=None)
def test_a_kind_of_device(text):
    with contextlib.suppress(ShowError):
        assert make_device(text, ["desk"]).id != "desk"


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
