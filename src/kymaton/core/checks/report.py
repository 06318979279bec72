"""What Kymaton says of a show: findings, the cards that gather them, and one cell for each listener and sound."""

from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.checks import (
    KINDS,
    RIG_KINDS,
    SEVERITIES,
    Finding,
    Severity,
    by_weight,
    find_all,
    find_in_rig,
    find_watched,
)
from kymaton.core.edits.variants import in_variant, same_rig
from kymaton.core.model import Show, Want
from kymaton.core.signal.cue_solution import MISSING_DB, CueSolution
from kymaton.core.signal.graph import SignalGraph, flatten
from kymaton.core.signal.trace import Path
from kymaton.core.words import counted, ms

WORDS = {"soft": "too soft", "one-sided": "one side"}  # in a cell, where they differ from its form


class Cell(Struct, frozen=True):
    """What one listener hears of one sound, against the plan.

    `form`: heard, silent (as planned); heard-unasked, empty (no wish); or the form of the worst finding.
    `figure` is what stands beside the form: a delay, a gap, a word.
    """

    listener: str
    sound: str
    want: Want
    chosen: bool
    form: str
    severity: Severity | None
    figure: str
    level: float
    relative_db: float


class Card(Struct, frozen=True):
    """Findings of one kind in one cue, or in the rig, that are said in one sentence.

    `items` is the list below a sentence that only counts: one entry a finding.
    """

    severity: Severity
    step: str
    sentence: str
    findings: tuple[Finding, ...]
    items: tuple[str, ...] = ()

    @property
    def first(self) -> Finding:
        """The finding that speaks for the card."""
        return self.findings[0]

    @property
    def key(self) -> tuple[object, ...]:
        """What tells this card from others."""
        return tuple(f.key for f in self.findings)


class CueReport:
    """Findings, cards and cells of one cue."""

    def __init__(self, view: CueSolution, watched: bool = False) -> None:
        self.view = view
        self.findings: list[Finding] = by_weight(find_watched(view)) if watched else find_all(view)

    def count(self, severity: Severity) -> int:
        """Number of findings of a severity."""
        return sum(f.severity == severity for f in self.findings)

    @cached_property
    def cards(self) -> list[Card]:
        """The findings, gathered where they are said in one sentence, worst first."""
        return _gather(self.view, self.findings)

    @cached_property
    def cells(self) -> dict[tuple[str, str], Cell]:
        """A cell for each listener and sound."""
        worst: dict[tuple[str | None, str | None], Finding] = {}
        for finding in self.findings:  # worst first
            if KINDS[finding.id].form and finding.severity != "note":
                worst.setdefault((finding.listener, finding.sound), finding)
        return {
            (listener.id, sound.id): _cell(self.view, listener.id, sound.id, worst.get((listener.id, sound.id)))
            for listener, sound in self.view.pairs()
        }

    def paths(self, finding: Finding) -> list[Path]:
        """The routes a finding is about: the strongest for each of its delays."""
        if finding.listener is None or finding.sound is None:
            return []
        best: dict[int, Path] = {}
        for path in self.view.paths(finding.listener, finding.sound):
            if path.delay_us in finding.delays_us:
                best.setdefault(path.delay_us, path)
        return [best[d] for d in sorted(best)]

    def ports(self, finding: Finding) -> tuple[str, ...]:
        """Port ids of a finding's path, or of its place."""
        if finding.ports:
            return finding.ports
        paths = self.paths(finding)
        return paths[-1].ports(self.view.graph) if paths else ()


def _cell(view: CueSolution, listener_id: str, sound_id: str, finding: Finding | None) -> Cell:
    listener, sound = view.show.listener(listener_id), view.show.sound(sound_id)
    want = view.want(listener, sound)
    form, figure = "empty", ""
    if finding is not None:
        form = KINDS[finding.id].form
        delay = finding.evidence.get("gap_ms", finding.evidence.get("delay_ms"))
        figure = ms(float(delay)) if isinstance(delay, int | float) else WORDS.get(form, form)
    elif view.level(listener, sound) > listener.floor and view.relative(listener, sound) > -50.0:
        form = "heard" if want is Want.MUST else "heard-unasked"
    elif want is Want.MUST_NOT or view.show.sounding(sound_id, view.cue_id) == "silent":
        form = "silent"
    return Cell(
        listener=listener_id,
        sound=sound_id,
        want=want,
        chosen=view.show.wish(listener_id, sound_id, view.cue_id) is not None,
        form=form,
        severity=finding.severity if finding else None,
        figure=figure,
        level=view.level(listener, sound),
        relative_db=view.relative(listener, sound),
    )


def _gather(view: CueSolution, findings: list[Finding]) -> list[Card]:
    """One card for what is said in one sentence: listeners who share a trouble with the same sounds."""
    sounds_of: dict[tuple[object, ...], set[str | None]] = {}
    for f in findings:
        sounds_of.setdefault(_family(view, f), set()).add(f.sound)
    groups: dict[tuple[object, ...], list[Finding]] = {}
    for f in findings:
        gathered = KINDS[f.id].gathered
        if gathered == "all":
            key: tuple[object, ...] = (f.id, f.severity)
        elif f.listener is None or f.sound is None:
            key = f.key
        else:
            person, talker = view.show.listener(f.listener).person, view.show.sound(f.sound).person
            if gathered == "each other" and person is not None and talker is not None:
                key = (f.id, f.severity, "each other", *sorted((person, talker)))
            else:
                key = (f.id, f.severity, *sorted(map(str, sounds_of[_family(view, f)])))
        groups.setdefault(key, []).append(f)
    cards = []
    for members in groups.values():
        together = KINDS[members[0].id].together
        text = together(view, members) if together and len(members) > 1 else members[0].sentence
        cards.append(Card(members[0].severity, members[0].step, text, tuple(members)))
    return sorted(cards, key=lambda c: SEVERITIES.index(c.severity))


def _family(view: CueSolution, finding: Finding) -> tuple[object, ...]:
    """Findings of one kind at one listener about sounds of one kind."""
    kind = view.show.sound(finding.sound).kind if finding.sound else None
    return (finding.id, finding.severity, finding.listener, kind)


class Report:
    """All cues of a show (the base state alone when it has none), and of each variant of its rig.

    `watched`: only what a fix may not bring; for a search that does this many times.
    """

    def __init__(
        self, show: Show, graph: SignalGraph | None = None, only: str | None = None, watched: bool = False
    ) -> None:
        self.show = show
        self.watched = watched
        self.graph = graph if graph is not None else flatten(show)
        cues: list[str | None] = [c.id for c in show.cues] or [None]
        if only is not None:
            cues = [only]
        self.never_heard: frozenset[str] = frozenset()
        views = {c: CueSolution(show, c, self.graph) for c in cues}
        if only is None:
            self.never_heard = _never_heard(list(views.values()))
        self.cues: dict[str | None, CueReport] = {c: self.of(view) for c, view in views.items()}
        self.rig: list[Finding] = find_in_rig(show) if only is None else []
        self.variants: dict[str, Report] = {
            v.id: Report(in_variant(show, v), self.graph if same_rig(v) else None, only, watched) for v in show.variants
        }

    def of(self, view: CueSolution) -> CueReport:
        """What is said of a cue of this show."""
        view.never_heard = self.never_heard
        return CueReport(view, self.watched)

    def what_if(self, show: Show, cue: str | None) -> CueSolution:
        """A cue as it would be in this show with a few changes of controls."""
        view = CueSolution(show, cue, self.graph)
        view.never_heard = self.never_heard
        view.plan = self.cues[cue].view.plan
        return view

    @property
    def findings(self) -> list[Finding]:
        """All findings, of the rig, then cue by cue; those of variants only where the plain rig has them not."""
        plain = [*self.rig, *(f for r in self.cues.values() for f in r.findings)]
        return [*plain, *(f for card in self.cards_of_variants for f in card.findings)]

    @cached_property
    def cards_of_variants(self) -> list[Card]:
        """What the variants bring that the plain rig has not; of the rig as a whole no notes."""
        known = {f.key for f in self.rig} | {f.key for r in self.cues.values() for f in r.findings}
        cards = []
        for variant, report in self.variants.items():
            new = [f for f in report.rig if f.key not in known and f.severity != "note"]
            cards += [Card(f.severity, f.step, f.sentence, (replace(f, variant=variant),)) for f in new]
            for cue in report.cues.values():
                found = _gather(cue.view, [f for f in cue.findings if f.key not in known])
                cards += [
                    replace(card, findings=tuple(replace(f, variant=variant) for f in card.findings)) for card in found
                ]
        return cards

    @property
    def rig_cards(self) -> list[Card]:
        """Findings of the rig: a card for each kind, with a list where there are several."""
        groups: dict[tuple[str, str], list[Finding]] = {}
        for f in self.rig:  # worst first
            groups.setdefault((f.id, f.severity), []).append(f)
        return [_rig_card(tuple(members)) for members in groups.values()]

    @property
    def verdict(self) -> str:
        """What was found, in a few words."""
        counts = {severity: self.count(severity) for severity in ("fault", "caution")}
        return ", ".join(counted(many, word) for word, many in counts.items() if many) or "Nothing wrong"

    def count(self, severity: Severity, cue: str | None = None, step: str | None = None, variants: bool = True) -> int:
        """Number of findings, of one cue or one step if given; without those of variants if so wished."""
        return sum(
            f.severity == severity
            and cue in (None, f.cue)
            and step in (None, f.step)
            and (variants or f.variant is None)
            for f in self.findings
        )


def _never_heard(views: list[CueSolution]) -> frozenset[str]:
    """Sounds that reach nobody who must hear them, in any of the cues."""
    left = {s.id: s for s in views[0].show.sounds}
    for view in views if len(views) > 1 else ():
        for sound in list(left.values()):
            if any(view.audible(x, sound, MISSING_DB) for x in view.plan.must_hear[sound.id]):
                del left[sound.id]
    return frozenset(left) if len(views) > 1 else frozenset()


def _rig_card(findings: tuple[Finding, ...]) -> Card:
    first, several = findings[0], RIG_KINDS[findings[0].id].several
    if len(findings) == 1 or not several:
        return Card(first.severity, first.step, first.sentence, findings)
    text = several.format(many=len(findings))
    return Card(first.severity, first.step, text, findings, tuple(f.item or f.sentence for f in findings))
