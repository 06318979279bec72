"""Questions about a show, answered by solving it: who hears what, when and why, and what would be if.

    who hears Quill                  everybody to whom it comes, and after what time
    what does Teo hear               all that comes to Teo
    why does Ilse hear herself       the ways, station by station, and what closes them
    why does Teo not hear Quill      what is missing on the way, and what it takes
    when does Maren hear the click   in which cues
    what if desk 9 to aux 1 closes   what differs, here and in all other cues

A question ends in `in Song`, or is about the cue in view.
"""

import re
from collections.abc import Iterable

from msgspec import Struct

from kymaton.core.checks.comparing import all_cues, cell_text, compare, difference_text
from kymaton.core.checks.report import CueReport, Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Control, Listener, Show, ShowError, Sound, Value
from kymaton.core.nearest import did_you_mean
from kymaton.core.planning.choosing import Demand, Literal, choose
from kymaton.core.planning.demands import Demands
from kymaton.core.planning.fixes import describe
from kymaton.core.planning.search import DEAREST, PRICES
from kymaton.core.signal.control_search import Opening, Reach, closed_value, open_value
from kymaton.core.signal.trace import Path, stations
from kymaton.core.units import SILENT
from kymaton.core.words import counted, joined, lowered, ms_within, named, number, said, sentence
from kymaton.language.commands import find_control
from kymaton.language.script import read_any

THEMSELVES = (
    "herself",
    "himself",
    "themself",
    "themselves",
    "itself",
    "their own voice",
    "her own voice",
    "his own voice",
)
ENDING = r"\s*\??$"
WHO_HEARS = re.compile(r"who (?:can |could )?hears? (.+?)" + ENDING, re.IGNORECASE)
WHAT_HEARS = re.compile(r"what (?:does|do|can) (.+?) hear" + ENDING, re.IGNORECASE)
WHY_NOT = re.compile(
    r"why (?:(?:does|do|can) (.+?) not|(?:doesn't|don't|can't|cannot) (.+?)) hear (.+?)" + ENDING, re.IGNORECASE
)
WHY = re.compile(r"why (?:does|do|can) (.+?) hear (.+?)" + ENDING, re.IGNORECASE)
WHEN = re.compile(r"when (?:does|do|can) (.+?) hear (.+?)" + ENDING, re.IGNORECASE)
WHAT_IF = re.compile(r"what if (.+?)" + ENDING, re.IGNORECASE)
OPENING, CLOSING = (
    r"opens|is opened|is open|comes up|is up|is unmuted|is on",
    r"closes|is closed|is shut|goes down|is down|is muted|is off",
)
OPENS = re.compile(rf"(.+?) (?:({OPENING})|({CLOSING}))$", re.IGNORECASE)
IN_CUE = re.compile(r"(.+?),? in (?:the )?(.+?)" + ENDING, re.IGNORECASE)
FORMS = (
    "who hears SOUND",
    "what does LISTENER hear",
    "why does LISTENER hear SOUND",
    "why does LISTENER not hear SOUND",
    "when does LISTENER hear SOUND",
    "what if CONTROL opens",
    "what if CONTROL closes",
)
MOST_WAYS = 3  # to close something, besides the usual one
MOST_LINES = 12  # of an answer; the rest is counted


class Answer(Struct, frozen=True):
    """An answer in sentences, and what of the show it is about: to look at, or (`show`) to have."""

    title: str
    lines: tuple[str, ...]
    cue: str | None = None
    listener: str | None = None
    sound: str | None = None
    show: Show | None = None


def is_question(text: str) -> bool:
    """Whether a text is meant as a question."""
    first, _, rest = text.strip().lower().partition(" ")
    return bool(rest) and first in ("who", "what", "why", "when")


def ask(report: Report, text: str, cue: str | None) -> Answer:
    """The answer to a question. Raises ShowError with one sentence where it is not understood."""
    show = report.show
    text = " ".join(text.split())
    inside = IN_CUE.match(text)
    if inside:
        for each in show.cues:
            if inside[2].lower() in (each.name.lower(), each.id):
                text, cue = inside[1], each.id
    view = report.cues.get(cue) or next(iter(report.cues.values()))
    for form, answer in ((WHO_HEARS, _who), (WHAT_HEARS, _what), (WHY_NOT, _why_not), (WHY, _why), (WHEN, _when)):
        match = form.match(text)
        if match:
            return answer(report, view, match)
    match = WHAT_IF.match(text)
    if match:
        return _what_if(report, view, match[1])
    raise ShowError(f"'{text}' is no question that is understood. Ask like this: {joined(FORMS[:3])}.")


def suggestions(show: Show) -> list[str]:
    """Questions that can be asked of a show, with its names."""
    people = [x.name for x in show.listeners]
    sounds = [s.name for s in show.sounds]
    found = [f"who hears {s}" for s in sounds] + [f"what does {x} hear" for x in people]
    makers = {s.person for s in show.sounds if s.person is not None}
    found += [f"why does {x.name} hear themselves" for x in show.listeners if x.person in makers]
    for x in people:
        found += [f"why does {x} {word} {s}" for s in sounds for word in ("hear", "not hear")]
    return found + [
        f"what if {c.name} {verb}"
        for c in show.controls()
        if closed_value(c) is not None
        for verb in ("closes", "opens")
    ]


# names


def _listener(show: Show, text: str) -> Listener:
    words = text.strip().lower().removeprefix("the ")
    for exact in (True, False):
        for listener in show.listeners:
            name = listener.name.lower()
            if words in (name, listener.id) or (
                not exact and words in (name.split(" ")[0].strip(","), listener.person)
            ):
                return listener
    raise ShowError(f"No listener is called '{text.strip()}'.{did_you_mean(words, (x.name for x in show.listeners))}")


def _sounds(view: CueReport, text: str, listener: Listener | None = None) -> list[Sound]:
    """The sounds of this name: one, or all that a person makes."""
    show = view.view.show
    words = text.strip().lower().removeprefix("the ")
    if listener is not None and words in THEMSELVES:
        own = [s for s in show.sounds if view.view.is_own(listener, s)]
        if not own:
            raise ShowError(f"{listener.name} makes no sound.")
        return own
    exact = [s for s in show.sounds if words in (s.name.lower(), s.id)]
    people = {p.id: p.name.lower() for p in show.people}
    of_person = [s for s in show.sounds if s.person is not None and words in (s.person, people.get(s.person))]
    first = [s for s in show.sounds if words == s.name.lower().split(" ")[0].strip(",")]
    found = exact or of_person or first
    if not found:
        raise ShowError(f"No sound is called '{text.strip()}'.{did_you_mean(words, (s.name for s in show.sounds))}")
    return found


def _where(view: CueReport) -> str:
    return f" in {view.view.cue.name}" if view.view.cue is not None else ""


# answers


def _who(report: Report, view: CueReport, match: re.Match[str]) -> Answer:
    sounds = _sounds(view, match[1])
    lines = []
    for sound in sounds:
        for listener in report.show.listeners:
            if view.view.level(listener, sound) > listener.floor:
                lines.append(_arrival(view, listener, sound))
    name = joined(said(s) for s in sounds)
    who = (
        f"{counted(len(lines), 'listener hears', 'listeners hear')} {name}{_where(view)}"
        if lines
        else f"Nobody hears {name}{_where(view)}"
    )
    return Answer(sentence(who), tuple(lines), view.view.cue_id, None, sounds[0].id)


def _what(report: Report, view: CueReport, match: re.Match[str]) -> Answer:
    listener = _listener(report.show, match[1])
    heard = [s for s in report.show.sounds if view.view.level(listener, s) > listener.floor]
    heard.sort(key=lambda s: -view.view.level(listener, s))
    lines = tuple(_arrival(view, listener, s, of_sound=True) for s in heard)
    who = named(listener)
    title = (
        f"{who.do('hear')} {counted(len(heard), 'sound')}{_where(view)}"
        if heard
        else f"{who.do('hear')} nothing{_where(view)}"
    )
    return Answer(sentence(title), lines, view.view.cue_id, listener.id)


def _arrival(view: CueReport, listener: Listener, sound: Sound, of_sound: bool = False) -> str:
    cue = view.view
    first = min(cue.bursts(listener, sound), key=lambda b: b.delay_us)
    after = ms_within(first.delay_ms, round(cue.plus_minus_ms(listener.id, sound.id, first.delay_us), 1))
    cell = view.cells[listener.id, sound.id]
    more = "" if cell.form.startswith("heard") else f": {cell_text(cell)}"
    level = f"{number(cue.level(listener, sound))} {listener.unit}"
    return f"{sentence(said(sound) if of_sound else said(listener))}, {level} after {after}{more}"


def _why(report: Report, view: CueReport, match: re.Match[str]) -> Answer:
    show, cue = report.show, view.view
    listener = _listener(show, match[1])
    sounds = _sounds(view, match[2], listener)
    lines: list[str] = []
    for sound in sounds:
        ways: dict[int, list[Path]] = {}
        for path in cue.paths(listener.id, sound.id):
            ways.setdefault(path.delay_us, []).append(path)
        for paths in sorted(ways.values(), key=lambda p: -p[0].gain_db)[:MOST_LINES]:
            lines += [_way(view, sound, paths[0]), _closers(view, paths)]
        lines += [
            f.reason for f in view.findings if (f.listener, f.sound) == (listener.id, sound.id) and f.severity != "note"
        ]
    what = "their own voice" if all(cue.is_own(listener, s) for s in sounds) else joined(said(s) for s in sounds)
    if not lines:
        return Answer(
            sentence(f"{named(listener).do('do')} not hear {what}{_where(view)}"),
            (),
            cue.cue_id,
            listener.id,
            sounds[0].id,
        )
    return Answer(
        sentence(f"why {said(listener)} {named(listener).verb('hear')} {what}{_where(view)}"),
        tuple(lines[:MOST_LINES]),
        cue.cue_id,
        listener.id,
        sounds[0].id,
    )


def _way(view: CueReport, sound: Sound, path: Path) -> str:
    cue = view.view
    along = [s.title for s in stations(cue.show, cue.graph, cue.state, path)][1:]
    level = f"{number(sound.level + path.gain_db)} {cue.show.listener(path.listener).unit}"
    if len(along) < 2:
        return sentence(f"{said(sound)} through the air: {level}")
    after = ms_within(path.delay_us / 1000, round(path.plus_minus_ms, 1))
    return sentence(f"{said(sound)} by {', '.join(along[:-1])}: {level} after {after}")


def _closers(view: CueReport, paths: list[Path]) -> str:
    """The settings that close ways with one delay, those first of which a technician would think first."""
    show, cue = view.view.show, view.view.cue_id
    demands = Demands(view.view, Reach(elsewhere=False))
    clauses = [demands.closing(path) for path in paths]
    if not all(clauses):
        return "Nothing within reach closes it"

    def price(control: str, value: Value) -> float:
        return PRICES.get(show.control(control).role, DEAREST) + demands.dearer.get((control, value), 0.0)

    def told(literals: Iterable[Literal | Change]) -> list[str]:
        wanted = ((x.control, x.after if isinstance(x, Change) else x.value) for x in literals)
        return [lowered(describe(show, Change(cue, c, show.value(c, cue), v))) for c, v in wanted]

    alone = sorted(frozenset.intersection(*clauses), key=lambda x: (price(x.control, x.value), x.control))
    found = choose(show, [Demand(clause, number) for number, clause in enumerate(clauses)], price)
    ways = told(alone[:MOST_WAYS])
    if found is not None and len(found.changes) > 1:
        ways = [joined(told(found.changes)), *ways]
    return f"What closes it: {'; or '.join(ways)}"


def _why_not(report: Report, view: CueReport, match: re.Match[str]) -> Answer:
    show, cue = report.show, view.view
    listener = _listener(show, match[1] or match[2])
    lines = []
    sounds = _sounds(view, match[3], listener)
    for sound in sounds:
        if cue.level(listener, sound) > listener.floor:
            lines.append(f"{sentence(said(listener))} does hear it: {_arrival(view, listener, sound)}")
            continue
        lines += [
            f.reason for f in view.findings if f.id == "missing" and (f.listener, f.sound) == (listener.id, sound.id)
        ]
        if cue.level(listener, sound) > SILENT:
            continue
        needed = Opening(cue, Reach(elsewhere=False)).fewest(listener.id, sound.id)
        if needed is None:
            lines.append("No way leads there, whatever is opened: a lead is missing, or something is unplugged")
        elif needed:
            changes = (Change(cue.cue_id, c, show.value(c, cue.cue_id), v) for c, v in needed.items())
            told = (lowered(describe(show, change)) for change in changes)
            lines.append(f"It takes: {joined(told)}")
    what = joined(said(s) for s in sounds)
    return Answer(
        sentence(f"why {said(listener)} {named(listener).verb('do')} not hear {what}{_where(view)}"),
        tuple(dict.fromkeys(lines)),
        cue.cue_id,
        listener.id,
        sounds[0].id,
    )


def _when(report: Report, view: CueReport, match: re.Match[str]) -> Answer:
    listener = _listener(report.show, match[1])
    sound = _sounds(view, match[2], listener)[0]
    lines = tuple(f"{name}: {cell_text(cell)}" for name, cell in all_cues(report, listener.id, sound.id))
    heard = sum(cell.level > listener.floor for _, cell in all_cues(report, listener.id, sound.id))
    title = f"{named(listener).do('hear')} {said(sound)} in {heard} of {counted(len(lines), 'cue')}"
    return Answer(sentence(title), lines, view.view.cue_id, listener.id, sound.id)


def _what_if(report: Report, view: CueReport, text: str) -> Answer:
    show, cue = report.show, view.view.cue_id
    changed = _supposed(show, cue, text)
    after = Report(changed, report.graph if changed.devices == show.devices or changed.cables == show.cables else None)
    lines, elsewhere = [], 0
    for id, each in report.cues.items():
        beside = after.cues.get(id)
        if beside is None:
            continue
        found = compare(each, beside)
        if id != cue:
            elsewhere += bool(found.cells or found.only_one or found.only_other)
            continue
        lines += [f"Then: {card.sentence}" for card in found.only_other]
        lines += [f"No more: {card.sentence}" for card in found.only_one]
        told = [difference_text(each, d) for d in found.cells]
        lines += told[:MOST_LINES]
        if len(told) > MOST_LINES:
            lines.append(f"and {len(told) - MOST_LINES} more")
    if elsewhere:
        lines.append(f"{counted(elsewhere, 'other cue changes', 'other cues change')} too")
    return Answer(
        sentence(f"if {text}{_where(view)}") + ("" if lines else ": nothing changes"), tuple(lines), cue, show=changed
    )


def _supposed(show: Show, cue: str | None, text: str) -> Show:
    """The show as it would be: a control opened or closed, or what a line says."""
    match = OPENS.match(text)
    if match:
        try:
            control = find_control(show, match[1])
        except ShowError:
            control = _control_of(show, match[1])
        value = open_value(control) if match[2] else closed_value(control)
        if value is None:
            raise ShowError(f"{sentence(control.name)} neither opens nor closes a way.")
        own = cue is not None and control.id in show.settings(cue)
        return apply(show, [Change(cue if own else None, control.id, show.value(control.id, cue), value)])
    return read_any(show, text, cue).show


def _control_of(show: Show, text: str) -> Control:
    words = [w for w in text.lower().split() if w not in ("the", "to")]
    closing = [c for c in show.controls() if closed_value(c) is not None]
    found = [c for c in closing if all(w in c.name.lower().split() for w in words)]
    if not found:
        known = (c.name for c in closing)
        raise ShowError(f"No control is called '{text.strip()}'.{did_you_mean(text.lower(), known)}")
    return min(found, key=lambda c: len(c.name))
