"""Private sounds: by how few presses they could get out, in which moments, and which lead makes it impossible."""

from kymaton.app.brief.page import SidePage
from kymaton.app.document import Document
from kymaton.app.widgets.basic import empty, label
from kymaton.core.checks.report import Report
from kymaton.core.planning.privacy import Proof, between_text, mistake_text, prove
from kymaton.core.words import joined, named, sentence

HEADS = ("Out as it is", "Out by one press", "Out by two presses")
MOST_SHOWN = 40  # of each number of presses; the shortest first
SAFE = "Nothing private can get out by one or two presses, nor between two cues."
CAUTION = "A mute is a promise, a pulled lead is a fact: what nobody may hear has no way out."


class PrivatePanel(SidePage):
    """A card for each number of presses, one for the moments between cues, one for the leads that end it."""

    def __init__(self, document: Document) -> None:
        super().__init__(document, "Private sounds")
        self.head.addStretch(1)
        self.finish_head()

    def fill(self) -> None:
        report = self.document.report
        if report is None:
            self.cards.addWidget(label("This is worked out as soon as all cues are known.", "soft", wrap=True))
            return
        self.document.work_out("private", lambda job: prove(report), lambda proof: self._show(report, proof))

    def _show(self, report: Report, proof: Proof) -> None:
        show = report.show
        empty(self.cards)
        if not proof.mistakes and not proof.between:
            self.cards.addWidget(label(SAFE, "soft", wrap=True))
        cues = {c.id: c.name for c in show.cues}
        for many, head in enumerate(HEADS):
            found = [m for m in proof.mistakes if len(m.presses) == many]
            lines = [
                f"{cues.get(m.cue or '', 'All cues')}: {mistake_text(report.cues[m.cue].view, m)}"
                for m in found[:MOST_SHOWN]
            ]
            left = len(found) - len(lines)
            self._card(head, [*lines, *([f"and {left} more"] if left else [])])
        self._card("Between two cues", [between_text(show, moment) for moment in proof.between])
        safe = []
        for sound, leads in proof.breaks.items():
            names = joined(f"{show.port_label(c.source)} from {show.port_label(c.target)}" for c in leads)
            safe.append(f"{sentence(named(show.sound(sound)).do('be'))} safe with {names} unplugged")
        self._card("A break that makes it impossible", safe)
        if safe:
            self.cards.addWidget(label(CAUTION, "small", wrap=True))
        self.cards.addStretch(1)

    def _card(self, title: str, lines: list[str]) -> None:
        if lines:
            inside = self.card()
            inside.addWidget(label(title, "strong"))
            for line in lines:
                inside.addWidget(label(line, "", wrap=True))
