"""The path map: plates do not overlap, wires keep clear of plates, the same show gives the same map."""

import pytest
from PyQt6.QtGui import QFontMetricsF

from kymaton import catalogue as kit
from kymaton.app.path.layout import lay_out
from kymaton.app.path.plate_text import title_font
from kymaton.app.theme.theme import words
from kymaton.catalogue.registry import make_device
from kymaton.core.edits import devices
from kymaton.core.model import Show
from kymaton.language.starters import STARTERS, starter
from kymaton.store.showfile import read_show
from tests.shows import DEMO, call_show, one_talker, voice, wire


def large() -> Show:
    """Thirty microphones through two desks to many ears."""
    many = 30
    return Show.checked(
        sounds=[voice(f"v{i}", person=None) for i in range(many)],
        devices=[
            *(kit.dynamic_microphone(f"mic{i}", f"Mic {i}") for i in range(many)),
            kit.desk("desk", inputs=32, aux=12),
            kit.desk("second", name="Second desk", inputs=32, aux=6),
            *(kit.headphones(f"phones{i}", f"Phones {i}") for i in range(12)),
        ],
        listeners=[{"id": f"l{i}", "name": f"L{i}", "kind": "operator"} for i in range(12)],
        cables=wire(
            *(f"sound/v{i} > mic{i}/capsule 0.1" for i in range(many)),
            *(f"mic{i}/out > desk/in{i + 1}" for i in range(many)),
            "desk/main > second/in1",
            *(f"desk/aux{i + 1} > phones{i}/in" for i in range(12)),
            *(f"phones{i}/ears > listener/l{i}" for i in range(12)),
            "second/main > desk/in32",
        ),
    )


SHOWS = {"demo": read_show(DEMO), "call": call_show(), "one": one_talker(), "empty": Show(), "large": large()}


@pytest.mark.parametrize("name", SHOWS)
@pytest.mark.parametrize("size", [(780.0, 500.0), (560.0, 300.0), (1800.0, 1000.0)])
def test_plates_do_not_overlap_and_wires_keep_clear(name, size):
    found = lay_out(SHOWS[name], *size)
    plates = list(found.plates.values())
    for i, a in enumerate(plates):
        assert a.x >= 0 and a.x + a.width <= found.width and a.y >= 0 and a.bottom <= found.height + 0.01
        for b in plates[i + 1 :]:
            assert a.x + a.width <= b.x or b.x + b.width <= a.x or a.bottom <= b.y or b.bottom <= a.y
    for wire_ in found.wires:
        assert len(wire_.points) >= 2
        for (ax, ay), (bx, by) in zip(wire_.points, wire_.points[1:], strict=False):
            assert ax == bx or ay == by
            for plate in plates:
                inside_x = max(ax, bx) > plate.x + 0.5 and min(ax, bx) < plate.x + plate.width - 0.5
                inside_y = max(ay, by) > plate.y + 0.5 and min(ay, by) < plate.bottom - 0.5
                assert not (inside_x and inside_y), (wire_.source, wire_.target, plate.id)


def test_the_same_show_gives_the_same_map():
    a, b = lay_out(SHOWS["demo"], 780, 500), lay_out(read_show(DEMO), 780, 500)
    assert [(p.id, p.x, p.y) for p in a.plates.values()] == [(p.id, p.x, p.y) for p in b.plates.values()]
    assert [w.points for w in a.wires] == [w.points for w in b.wires]


def test_the_demo_fits_the_view_at_its_designed_size():
    found = lay_out(SHOWS["demo"], 776, 500)
    assert found.width == 776 and found.height == 500


def test_wires_start_and_end_at_their_plates():
    found = lay_out(SHOWS["demo"], 780, 500)
    for wire_ in found.wires:
        for id, (x, y) in ((wire_.source, wire_.points[0]), (wire_.target, wire_.points[-1])):
            plate = found.plates[id]
            assert plate.x - 0.01 <= x <= plate.x + plate.width + 0.01 and plate.y - 0.01 <= y <= plate.bottom + 0.01


@pytest.mark.parametrize("kind", ["keyboard", "desk", "camera", "headphones", "encoder box"])
def test_one_more_device_does_not_shuffle_the_rest(kind):
    show = SHOWS["demo"]
    more = devices.add_device(show, make_device(kind, [d.id for d in show.devices]))

    def order(found, ids):
        return [p.id for p in sorted(found.plates.values(), key=lambda p: (p.column, p.y)) if p.id in ids]

    before, after = lay_out(show, 780, 500), lay_out(more, 780, 500)
    assert order(before, before.plates) == order(after, before.plates)


@pytest.mark.parametrize("name", ["demo", *(s.id for s in STARTERS)])
def test_no_text_is_cut_at_the_designed_size(qapp, name):
    show = SHOWS["demo"] if name == "demo" else starter(name).show()
    for plate in lay_out(show, 776, 600).plates.values():
        room = plate.width - 13
        assert QFontMetricsF(title_font(plate.title, room)).horizontalAdvance(plate.title) <= room, plate.title
        if plate.two_lines:
            assert QFontMetricsF(words(11)).horizontalAdvance(plate.detail) <= room, plate.detail
