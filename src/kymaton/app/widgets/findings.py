"""The findings of a step: one open card with sentence, reason, evidence, fix and the way to its path."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QBoxLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from kymaton.app.document import Document
from kymaton.app.theme.theme import THEME, tokens
from kymaton.app.widgets.basic import button, empty, label, plain_tip
from kymaton.core.checks import SEVERITIES
from kymaton.core.checks.report import Card
from kymaton.core.words import counted, db, hertz, lowered, metres, ms, ms_within, number

if TYPE_CHECKING:
    from kymaton.core.planning.by_hand import Cure
    from kymaton.core.planning.fixes import Fix

WIDTH, NARROW = 312, 272
NOTHING_YET = {
    "brief": "Nobody takes part yet. Type a line in Brief: Maren, voice, host.",
    "path": "Nothing is wired yet. Type in the patch line what goes where, or add a device.",
    "hearing": "Nobody hears anything yet: wire in Path what goes where.",
    "levels": "No level can be told yet: wire in Path what goes where.",
    "load-in": "Type what the uplink has, as it was measured: then it can be said whether it is enough.",
    "sync": "No picture meets its sound yet: patch a camera in Path, and choose in Brief which picture is on air.",
}


def evidence_lines(card: Card) -> list[tuple[str, str]]:
    """What a card rests on, as label and figure."""
    e = card.first.evidence
    lines: list[tuple[str, str]] = []
    if "delays_ms" in e:
        delays = e["delays_ms"]
        assert isinstance(delays, list)
        lines.append(("arrives after", " and ".join(ms(d) for d in delays)))
    if "gap_ms" in e:
        lines += [("apart", ms(_number(e["gap_ms"]))), ("first notch", hertz(_number(e["first_notch_hz"])))]
        lines.append(("ripple", db(_number(e["ripple_db"]))))
    elif "delay_ms" in e:
        figure = ms_within(_number(e["delay_ms"]), _number(e.get("plus_minus_ms", 0.0)))
        lines.append(("back after" if "under_direct_db" in e else "delay", figure))
    if "under_direct_db" in e:
        below = _number(e["under_direct_db"])
        lines.append(("softer than heard direct" if below >= 0 else "louder than heard direct", db(abs(below))))
    if "g107_idte" in e:
        lines.append(("talker echo, G.107 Idte", number(_number(e["g107_idte"]), 1)))
    if "level" in e:
        lines.append(("level", f"{number(_number(e['level']), 1)} {e['level_unit']}"))
    if "length_m" in e:
        lines += [("length", metres(_number(e["length_m"]))), ("usual at most", metres(_number(e["limit_m"])))]
    if "margin_db" in e:
        lines.append(("margin", db(_number(e["margin_db"]))))
    return lines


def _number(value: object) -> float:
    assert isinstance(value, int | float)
    return float(value)


class CardView(QFrame):
    """One card, closed (a sentence) or open (all of it)."""

    pressed = pyqtSignal()
    path_wanted = pyqtSignal()

    def __init__(self, document: Document, card: Card, open_: bool, room: int) -> None:
        super().__init__()
        self.room = room
        self.document, self.card, self.is_open = document, card, open_
        self.setObjectName("card" if open_ else "")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"{card.severity}: {card.sentence}")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        if not open_:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10 if open_ else 7, 10, 10 if open_ else 7)
        layout.setSpacing(6)
        head = QHBoxLayout()
        head.setSpacing(8)
        sentence = label(card.sentence, "strong", wrap=True)
        sentence.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        head.addWidget(sentence, 1)
        if len(card.findings) > 1:
            count = label(f"{len(card.findings)}", "figures")
            count.setToolTip(f"{counted(len(card.findings), card.severity)} in this sentence")
            head.addWidget(count, 0, Qt.AlignmentFlag.AlignTop)
        layout.addLayout(head)
        self.fix_button = button("Looking for a fix", lambda: None, "main")
        self.fix_text = label("", "small", wrap=True)
        if open_:
            self._fill(layout)

    def _fill(self, layout: QVBoxLayout) -> None:
        for item in self.card.items:
            layout.addWidget(label(f"\N{EN DASH} {item}", "", wrap=True))
        layout.addWidget(label(self.card.first.reason, "soft", wrap=True))
        for name, figure in evidence_lines(self.card) if not self.card.items else ():
            row = QHBoxLayout()
            row.addWidget(label(name, "small"))
            row.addStretch(1)
            row.addWidget(label(figure, "figures"))
            layout.addLayout(row)
        if self.card.first.remedy:
            layout.addWidget(label(self.card.first.remedy, "", wrap=True))
        layout.addWidget(self.fix_text)
        self.path_button = button("Show the path", self.path_wanted.emit, "quiet", "Show the routes on the map")
        first = self.card.first
        if not (first.ports or first.listener or first.sound):
            self.path_button.hide()  # it is about no place
        self.actions_row = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self.actions_row.setSpacing(4)
        left = Qt.AlignmentFlag.AlignLeft
        self.actions_row.addWidget(self.fix_button, 0, left)
        self.actions_row.addWidget(self.path_button, 0, left)
        self.actions_row.addStretch(1)
        layout.addLayout(self.actions_row)
        self._flow()
        self.fix_button.setEnabled(False)
        self.fix_text.hide()
        self.fix_button.setHidden(self.card.severity == "note")
        self.ask_fix()

    def ask_fix(self) -> None:
        """Look for a fix for the state of the show as it is now."""
        if self.is_open and self.card.severity != "note":
            if self.card.first.step == "load-in":
                self.document.find_cure(self.card, self.show_cure)
            else:
                self.document.find_fix(self.card, self.show_fix)

    def show_cure(self, cure: "Cure | None") -> None:
        """What a hand can do about it, as one step."""
        if cure is None:
            self.fix_button.hide()
            return
        self.fix_button.setText(cure.title)
        self.fix_button.setToolTip(plain_tip(f"{cure.text} (Enter on the card)"))
        self.fix_button.setEnabled(True)
        self.fix_text.setText(cure.text)
        self.fix_text.setVisible(cure.text != self.card.first.remedy)
        self._flow()
        self.fix_button.clicked.disconnect()
        self.fix_button.clicked.connect(lambda: self.document.edit(cure.show, lowered(cure.text.rstrip("."))))

    def show_fix(self, fix: "Fix | None") -> None:
        try:
            if fix is None:
                self.fix_button.hide()
                return
            self.fix_button.setVisible(not fix.asked)
            self.fix_button.setToolTip(plain_tip(f"{fix.title} (Enter on the card)"))
            fits = self.fix_button.fontMetrics().horizontalAdvance(fix.title) <= self.room - 60
            self.fix_button.setText(fix.title if fits else "Do this")
            self._flow()
        except RuntimeError:  # the card is gone
            return
        self.fix_button.setEnabled(True)
        from kymaton.core.planning.fixes import parts_of

        lines = [*([] if fits and not fix.asked else [fix.title]), *parts_of(self.document.show, fix)]
        if {c.cue for c in fix.changes} == {None} and len(fix.cures) > len(self.card.findings):
            lines.append(f"Cures {len(fix.cures)} findings in all cues.")
        self.fix_text.setText("\n".join(lines))
        self.fix_text.setVisible(bool(lines))
        self.fix_button.clicked.disconnect()
        self.fix_button.clicked.connect(lambda: self.document.apply(fix.changes, lowered(fix.title)))

    def _flow(self) -> None:
        """Side by side when there is room, else one below the other."""
        wide = self.fix_button.sizeHint().width() + self.path_button.sizeHint().width() + 4
        across = wide < self.room - 24
        self.actions_row.setDirection(QBoxLayout.Direction.LeftToRight if across else QBoxLayout.Direction.TopToBottom)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        t = tokens()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        mark = {"fault": t.fault, "caution": t.caution, "note": t.faint}[self.card.severity]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(mark))
        height = self.height() - 16
        if self.card.severity == "fault":
            painter.drawRect(QRectF(2, 8, 3, height))
        elif self.card.severity == "caution":  # told by shape too: a broken bar
            for part in range(2):
                painter.drawRect(QRectF(2, 8 + part * (height / 2 + 1.5), 3, height / 2 - 1.5))
        else:
            painter.drawEllipse(QRectF(1, self.height() / 2 - 2.5, 5, 5))
        if self.hasFocus():
            painter.setPen(QColor(t.wave))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.pressed.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            if self.is_open and self.fix_button.isVisible() and self.fix_button.isEnabled():
                self.fix_button.click()
            else:
                self.pressed.emit()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()


def _has_keyboard(view: CardView) -> bool:
    at = QApplication.focusWidget()
    return at is not None and (view is at or view.isAncestorOf(at))


class _Cards(QVBoxLayout):
    """Cards below each other; their height is worked out once for a width, until a card changes."""

    known: tuple[int, int] | None = None

    def height_at(self, width: int) -> int:
        if self.known is None or self.known[0] != width:
            self.known = width, self.totalHeightForWidth(width)
        return self.known[1]

    def invalidate(self) -> None:
        self.known = None
        super().invalidate()


class _Column(QWidget):
    """As high as its cards are at the width that it has, so that nothing scrolls that need not."""

    def __init__(self) -> None:
        super().__init__()
        self.cards = _Cards(self)

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self.cards.height_at(self.width()))


class FindingsPanel(QFrame):
    """Findings of the current step in the current cue, or in all cues."""

    path_wanted = pyqtSignal(object)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.step = "hearing"
        self.steps: tuple[str, ...] = ("hearing",)
        self.all_cues = False
        self.open_key: tuple[object, ...] | None = None
        self.walked_to: tuple[object, ...] | None = None
        self.views: list[CardView] = []
        self._drawn: object = None
        self.setObjectName("panel")
        self.setFixedWidth(WIDTH)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 12, 8, 8)
        layout.setSpacing(6)
        self.title = label("", "heading")
        layout.addWidget(self.title)
        scopes = QHBoxLayout()
        scopes.setSpacing(4)
        self.here = button("This cue", lambda: self._choose_scope(False), "scope", "Findings of the current cue")
        self.everywhere = button("All cues", lambda: self._choose_scope(True), "scope", "Findings of all cues")
        for item in (self.here, self.everywhere):
            item.setCheckable(True)
            scopes.addWidget(item)
        scopes.addStretch(1)
        layout.addLayout(scopes)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inside = _Column()
        self.list = inside.cards
        self.list.setContentsMargins(0, 0, 4, 0)
        self.list.setSpacing(4)
        self.area.setWidget(inside)
        layout.addWidget(self.area, 1)
        document.report_changed.connect(self.refresh)
        THEME.changed.connect(self.refresh)

    def set_narrow(self, narrow: bool) -> None:
        self.setFixedWidth(NARROW if narrow else WIDTH)

    def set_step(self, step: str) -> None:
        self.step = step
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if event is not None and event.oldSize().width() != event.size().width():
            self.refresh()

    def _choose_scope(self, all_cues: bool) -> None:
        self.all_cues = all_cues
        self.refresh()

    def cards(self) -> list[Card]:
        """The cards in view, in their order."""
        report = self.document.report
        cues = [self.document.cue_report]
        if self.all_cues and report is not None:
            cues = list(report.cues.values())
        rig = [c for c in report.rig_cards if c.step == self.step] if report is not None else []
        cards = [*rig, *(card for cue in cues for card in cue.cards if card.step == self.step)]
        return cards if self.all_cues else sorted(cards, key=lambda c: SEVERITIES.index(c.severity))

    def refresh(self) -> None:
        cards = self.cards()
        keys = [c.key for c in cards]
        if self.open_key not in keys:
            self.open_key = keys[0] if keys else None
        drawn = (
            [(c.key, c.sentence, c.first.reason) for c in cards],
            self.open_key,
            self.all_cues,
            tokens().name,
            self.width(),
            self.document.readiness(self.step),
        )
        self._tell_title()
        if drawn == self._drawn:  # the same cards: only the fix may have become known
            for view in self.views:
                view.ask_fix()
            return
        self._drawn = drawn
        inside = next((v.card.key for v in self.views if _has_keyboard(v)), None)
        focused = inside if inside in keys else self.open_key  # that of one that is cured goes on to the next
        has_keyboard = inside is not None or self.hasFocus()
        empty(self.list)
        self.views = []
        previous: str | None = None
        for card in cards:
            if self.all_cues and card.first.cue not in (previous, None):
                previous = card.first.cue
                self.list.addWidget(label(self.document.show.cue(previous).name if previous else "", "small"))
            view = CardView(self.document, card, card.key == self.open_key, self.width() - 36)
            view.pressed.connect(lambda card=card: self.open(card))
            view.path_wanted.connect(lambda card=card: self.path_wanted.emit(card))
            self.list.addWidget(view)
            self.views.append(view)
            if has_keyboard and card.key == focused:
                view.setFocus()
        if not cards:
            if has_keyboard:
                self.setFocus()  # until there are cards again
            self.list.addWidget(self._nothing())
        self.list.addStretch(1)

    def _nothing(self) -> QLabel:
        """What stands in place of cards: what is to come first, or that what is there was examined and is good."""
        ready = self.document.readiness(self.step)
        if ready is None:
            text = "Being examined."
        elif ready.state == "nothing":
            text = NOTHING_YET[self.step]
        elif not self.document.show.cues:
            text = "Nothing is wrong here."
        elif self.all_cues:
            text = "Nothing is wrong here, in any cue."
        else:
            text = "Nothing is wrong here, in this cue."
        return label(text, "soft", wrap=True)

    def _tell_title(self) -> None:
        document = self.document
        findings = [f for card in self.cards() for f in card.findings]
        counts = {s: sum(f.severity == s for f in findings) for s in ("fault", "caution")}
        words = [counted(n, s) for s, n in counts.items() if n or s == "fault"]
        cue = document.cue_report.view.cue
        where = "All cues" if self.all_cues else cue.name if cue else "Whole show"
        ready = document.readiness(self.step)
        empty_yet = ready is not None and ready.state == "nothing" and not findings
        self.title.setText("Nothing to examine yet" if empty_yet else f"{where}: {', '.join(words)}")
        self.everywhere.setText("All cues" if ready is None else f"All cues, {ready.faults}")
        for item, on in ((self.here, not self.all_cues), (self.everywhere, self.all_cues)):
            item.setChecked(on)
            item.setVisible(len(document.show.cues) > 1)

    def open(self, card: Card) -> None:
        """Open one card, and choose what it is about."""
        if self.open_key != card.key:
            self.open_key = card.key
        if card.first.cue is not None and card.first.cue != self.document.cue_id:
            self.document.choose_cue(card.first.cue)
        self.refresh()
        view = next((v for v in self.views if v.card.key == card.key), None)
        if view is not None:
            self.area.ensureWidgetVisible(view)
        self.document.select_finding(card.first)

    def step_finding(self, by: int) -> None:
        """Go to the next or previous card."""
        cards = self.cards()
        if not cards:
            return
        keys = [c.key for c in cards]
        at = keys.index(self.open_key) if self.open_key in keys else -by
        if self.open_key != self.walked_to:  # coming from elsewhere: the card that is open already
            at -= by
        card = cards[(at + by) % len(cards)]
        self.walked_to = card.key
        self.open(card)
        view = next((v for v in self.views if v.card.key == card.key), None)
        if view is not None:
            view.setFocus()
