"""The style of sentences, over names that people really give and names that nobody would think of."""

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kymaton.core.checks.report import Report
from kymaton.core.model import Show
from kymaton.core.words import (
    beside,
    exact_ms,
    frames_said,
    group,
    metres,
    ms,
    ms_within,
    named,
    person,
    thing,
    under_loudest,
    voice,
)
from kymaton.store.showfile import read_show
from tests import shows
from tests.shows import DEMO

PAGE = Path(__file__).parent.parent.parent / "docs" / "sentences.md"
# what stumbles when it is read aloud; none of it may be said of any show
STUMBLES = {
    "an article twice": re.compile(r"\b(the|a) (the|a|an|my|our)\b", re.I),
    "an article before a name with an owner": re.compile(r"\bthe [A-Z]\w*'s \w+"),
    "nothing under something": re.compile(r"(?<![\d.])0 dB (under|softer|louder|different)"),
    "milliseconds beyond a second": re.compile(r"\d{4,}(\.\d)? ms"),
    "no frames": re.compile(r"(?<![\d.])0(\.0)? frames"),
    "one of several": re.compile(r"(?<![\d.])1 (faults|cautions|notes|findings|frames|changes|leads|devices)\b"),
    "a digit that is not meant": re.compile(r"\d+\.0 m\b"),
    "two spaces, or none": re.compile(r"  |,\w{2}| ,"),
    "Python": re.compile(r"None|\{|\}|\bnan\b|\binf\b"),
}
NAMES = st.one_of(
    st.sampled_from([
        "Alerts", "Teo's kit", "the choir", "The Rest of the Band", "a guitar", "Bass", "Bass and drums", "Camera A",
        "Desk 2", "iPad", "PA", "Gulls", "Chorus", "kinderen", "声", "Тео", "x" * 60, "James", "Boss's lectern",
        "our organ", "HDMI 2", "  spaced   out ", "Lens", "Teo, concertina",
    ]),
    st.text(st.characters(categories=("L", "N"), include_characters=" '-"), min_size=1, max_size=60).filter(
        lambda name: any(c.isalpha() for c in name)  # a name of digits alone cannot be told from a figure below
    ),
)  # fmt: skip


def faults_of(text: str) -> list[str]:
    return [f"{name}: {text}" for name, pattern in STUMBLES.items() if pattern.search(text)]


@pytest.mark.parametrize(
    ("name", "said"),
    [
        ("Alerts", "the alerts reach"),
        ("Teo's kit", "Teo's kit reaches"),
        ("The choir", "the choir reaches"),
        ("A guitar", "the guitar reaches"),
        ("Bass", "the bass reaches"),
        ("Bass and drums", "the bass and drums reach"),
        ("Camera A", "camera A reaches"),
        ("Desk 2", "desk 2 reaches"),
        ("Front desk", "the front desk reaches"),
        ("iPad", "the iPad reaches"),
        ("PA", "the PA reaches"),
        ("Headphones", "the headphones reach"),
        ("Lens", "the lens reaches"),
        ("Children", "the children reach"),
        ("声", "the 声 reaches"),
    ],
)
def test_a_thing_has_its_article_and_its_number(name, said):
    assert thing(name).do("reach") == said


def test_verbs_agree():
    ilse, alerts = person("Ilse"), thing("Alerts")
    assert (ilse.do("be"), alerts.do("be")) == ("Ilse is", "the alerts are")
    assert (ilse.do("carry"), ilse.do("play"), ilse.do("do")) == ("Ilse carries", "Ilse plays", "Ilse does")
    assert group([ilse, alerts]).do("hear") == "Ilse and the alerts hear"


def test_of_whom_it_is():
    assert (person("Ilse").own, thing("Alerts").own, person("James").own) == ("Ilse's", "the alerts'", "James's")
    assert voice(shows.voice("nadir")).text == "Nadir's voice"


def test_people_keep_their_capitals_in_names_of_things():
    assert thing("Maren ear", people=["Maren"]).text == "the Maren ear"
    assert thing("Maren's ear").text == "Maren's ear"


def test_somebody_without_a_person_has_no_article():
    assert named(shows.listener("bob", "operator")).text == "Bob"
    assert named(shows.listener("audience", "audience")).text == "the audience"
    assert named(shows.voice("horn", person=None, kind="instrument")).text == "the horn"


@pytest.mark.parametrize(
    ("value", "sure", "said"),
    [
        (231.64, 0.0, "231.6 ms"), (231.64, 26.0, "232 ms"), (999.9, 0.0, "999.9 ms"), (999.96, 0.0, "1.00 s"),
        (4282.6, 0.0, "4.28 s"), (25360.3, 0.0, "25.4 s"), (-0.04, 0.0, "0.0 ms"),
    ],
)  # fmt: skip
def test_a_delay_is_as_exact_as_it_is(value, sure, said):
    assert ms(value, sure) == said


def test_figures_beside_their_uncertainty_have_one_unit():
    assert ms_within(231.64, 26.2) == "232 ± 26 ms" and ms_within(12.34, 0.5) == "12.3 ± 0.5 ms"
    assert ms_within(4282.6, 104.0) == "4.28 ± 0.10 s" and ms_within(5.0, 0.0) == "5.0 ms"
    assert (exact_ms(20.0), exact_ms(12.5), exact_ms(1500.0)) == ("20 ms", "12.5 ms", "1.5 s")
    assert (metres(16.5), metres(11.0)) == ("16.5 m", "11 m")
    assert (frames_said(5.0), frames_said(1.02), frames_said(2.94)) == ("5 frames", "1 frame", "2.9 frames")


def test_a_level_beside_another():
    assert under_loudest(-12.4) == "12 dB under the loudest sound there"
    assert under_loudest(0.0) == "as loud as anything there"
    assert beside(-10.0, "heard direct") == "10 dB softer than heard direct"
    assert beside(0.3, "heard direct") == "as loud as heard direct" and "louder" in beside(3.0, "it")


@given(NAMES, NAMES)
def test_any_names_stand_in_a_sentence(name, other):
    for noun in (thing(name), thing(name, people=[other]), group([thing(name), thing(other)])):
        text = f"Yes, {noun.do('reach')} {noun.own} end"
        assert not re.search(r"\b(the|a) (the|a|an)\b (?!s\b)", text.replace(name, "").replace(other, ""), re.I)
        assert "  " not in text and noun.text.strip() == noun.text and noun.text
        assert thing(noun.text).text == noun.text or not noun.text.startswith("the ")  # said twice, it stays


@given(st.lists(NAMES, min_size=5, max_size=5))
def test_findings_are_said_well_of_any_names(names):
    """The demo with its people, sounds and devices renamed."""
    show = renamed(read_show(DEMO), names)
    report = Report(show, only="guest-talk")
    told = [f"{f.sentence}. {f.reason}" for f in report.cues["guest-talk"].findings]
    told += [c.sentence for c in report.cues["guest-talk"].cards]
    for text in told:
        for name in names:
            for said in (name, " ".join(name.split())):
                text = re.sub(rf"(?<!\w){re.escape(said)}(?!\w)", "N", text)
        found = [f for f in faults_of(text) if not f.startswith(("an article", "two spaces"))]
        assert not found, (found, names)


def renamed(show: Show, names: list[str]) -> Show:
    """The show with its first sounds and its desk called otherwise."""
    sounds = [s.evolve(name=n) for s, n in zip(show.sounds[2:], names, strict=False)]
    devices = [d.evolve(name=names[4]) if d.id == "desk" else d for d in show.devices]
    kept = (*show.sounds[:2], *sounds, *show.sounds[2 + len(sounds) :])
    return Show.checked(**{**show.fields(), "sounds": kept, "devices": devices})


def test_the_page_of_all_sentences_is_free_of_what_stumbles():
    """`make pages` writes it from real shows."""
    said, _, _ = PAGE.read_text("utf-8").partition("## What else is said")
    assert said.count("### ") > 40
    assert [f for line in said.splitlines() if line.startswith("- ") for f in faults_of(line)] == []
