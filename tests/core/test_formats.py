"""Picture formats and frame rates as people write them; lines of the brief that make pictures."""

from fractions import Fraction

import pytest

from kymaton.core.formats import format_text, read_format, read_rate
from kymaton.core.model import Show, ShowError
from kymaton.language.brief import read_line

NTSC = Fraction(30000, 1001)


def test_frame_rates():
    assert [read_rate(t) for t in ("25", "29.97", "23.976", "30000/1001", "59.94", "12.5")] == [
        25, NTSC, Fraction(24000, 1001), NTSC, Fraction(60000, 1001), Fraction(25, 2),
    ]  # fmt: skip
    for text in ("fast", "1/0", ""):
        with pytest.raises(ShowError):
            read_rate(text)


@pytest.mark.parametrize("text", ["1080p25", "720p59.94", "2160p29.97", "1080p50"])
def test_a_format_is_read_and_told_alike(text):
    assert format_text(read_format(text)) == text
    assert read_format(text).width * 9 == pytest.approx(read_format(text).height * 16, abs=8)


@pytest.mark.parametrize("text", ["1080", "1080i50", "10p25", "1080p0", "1080p999", "99999p25", "p25", ""])
def test_what_is_no_format_is_said(text):
    with pytest.raises(ShowError, match="not a picture format"):
        read_format(text)


def test_a_picture_is_made_by_a_line_of_the_brief():
    brief = read_line(Show(), "Camera A, camera, in Hall")
    device = brief.show.devices[0]
    assert (device.name, device.kind, brief.show.place_of(device.place).name) == ("Camera A", "camera", "Hall")
    assert read_line(brief.show, "Slides, picture").show.devices[1].kind == "picture-player"
    assert read_line(brief.show, "Maren, voice, host").show.sounds[0].name == "Maren"
    with pytest.raises(ShowError, match="already"):
        read_line(brief.show, "camera a, camera")
