"""Variants: made by lines, told in words, compared with the plain rig."""

import pytest

from kymaton.core.checks.report import Report
from kymaton.core.model import ShowError
from kymaton.language.variants import add_difference, add_variant, compare, differences, remove_variant
from kymaton.store.showfile import parse_show, read_show, show_bytes
from tests.shows import DEMO


def test_a_variant_is_made_told_and_compared():
    show, id = add_variant(read_show(DEMO), "No echo")
    show = add_difference(show, id, "set desk 9 to aux 1 to closed")
    show = add_difference(show, id, "set desk 10 to aux 1 to closed")
    show = add_difference(show, id, "disconnect floor headphones")
    variant = show.variants[0]
    assert differences(show, variant) == [
        "Pull down desk 9 to aux 1",
        "Pull down desk 10 to aux 1",
        "Unplug Desk aux 5 from Floor headphones",
        "Unplug Floor headphones from Quill",
    ]
    assert parse_show(show_bytes(show), "x") == show
    beside = compare(Report(show))[0]
    assert beside.plain_faults == 58 and "Ilse hears their own voice 232 ms late" in beside.cures
    assert any("Quill does not hear" in s for s in beside.brings)
    assert beside.faults == 58 - 16 + sum(f.variant == id and f.severity == "fault" for f in Report(show).findings)
    assert remove_variant(show, id).variants == ()


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("add desk", "changes settings and takes leads away"),
        ("desk aux 6 > desk 16", "changes settings and takes leads away"),
        ("talkback mic > desk 16", "one socket takes one plug"),
        ("set desk 16 to open", "so already"),
        ("nonsense", "a source"),
    ],
)
def test_what_is_no_difference(line, said):
    show, id = add_variant(read_show(DEMO), "V")
    with pytest.raises(ShowError, match=said):
        add_difference(show, id, line)


def test_names_are_needed_and_taken_once():
    show, _ = add_variant(read_show(DEMO), "Venue")
    for name in ("", "venue"):
        with pytest.raises(ShowError):
            add_variant(show, name)
