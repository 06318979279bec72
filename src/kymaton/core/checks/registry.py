"""Findings and the kinds of them. Each kind is declared once, beside the function that looks for it."""

from collections.abc import Callable, Iterable, Sequence
from typing import Literal

from msgspec import Struct, field
from msgspec.structs import replace

from kymaton.core.model import Show
from kymaton.core.model.device import Value
from kymaton.core.signal.cue_solution import CueSolution

Severity = Literal["fault", "caution", "note"]
Step = Literal["brief", "path", "hearing", "levels", "sync", "run", "load-in", "log"]
Evidence = dict[str, float | int | str | bool | list[float]]
Key = tuple[str | None, ...]
SEVERITIES: tuple[Severity, ...] = ("fault", "caution", "note")

# what is told first: what hurts, what everyone hears, what must not get out, what is missed
ORDER = (
    "loop",
    "loop-without-delay",
    "own-voice-back",
    "doubled",
    "private-reaches-audience",
    "leak",
    "missing",
    "too-soft",
    "too-late",
    "monitor-late",
    "voice-processing",
    "canceller-needed",
    "sound-early",
    "sound-late",
    "picture-missing",
    "picture-seen",
    "microphone-left-open",
    "too-much-by-hand",
    "private-one-press-away",
    "microphones-in-phase",
)


class Finding(Struct, frozen=True):
    """Something that is wrong, or worth knowing, for one listener and one sound in one cue.

    `delays_us` are the arrivals it is about: the routes to show. `form` is how a table cell tells it.
    """

    id: str
    severity: Severity
    step: Step
    cue: str | None
    listener: str | None
    sound: str | None
    sentence: str
    reason: str
    evidence: Evidence = field(default_factory=dict)
    delays_us: tuple[int, ...] = ()
    ports: tuple[str, ...] = ()  # for findings that are about a place, not about a listener
    variant: str | None = None
    remedy: str = ""  # what to do, where no control does it
    settings: tuple[tuple[str, Value], ...] = ()  # controls that would cure it, to be proved
    item: str = ""  # what stands for it in a list of several, where that is less than its sentence

    @property
    def key(self) -> Key:
        return (self.id, self.variant, self.cue, self.listener, self.sound, *self.ports[:2])


class Kind(Struct, frozen=True):
    """A kind of finding: how to look for it, and how to say it of several listeners and sounds at once."""

    id: str
    find: Callable[[CueSolution], Iterable[Finding]]
    together: Callable[[CueSolution, Sequence[Finding]], str] | None


class RigKind(Struct, frozen=True):
    """A kind of finding about the rig alone: how to look for it, and what to say of several (`{many}` of them)."""

    id: str
    find: Callable[[Show], Iterable[Finding]]
    several: str


KINDS: dict[str, Kind] = {}
RIG_KINDS: dict[str, RigKind] = {}


def kind(
    *ids: str, together: Callable[[CueSolution, Sequence[Finding]], str] | None = None
) -> Callable[[Callable[[CueSolution], Iterable[Finding]]], Callable[[CueSolution], Iterable[Finding]]]:
    """Declare a function that finds the kinds with these ids."""

    def declare(find: Callable[[CueSolution], Iterable[Finding]]) -> Callable[[CueSolution], Iterable[Finding]]:
        for id in ids:
            if id in KINDS or id not in ORDER:
                raise ValueError(f"the kind {id} is declared twice or has no place in ORDER")
            KINDS[id] = Kind(id, find, together)
        return find

    return declare


def rig_kind(
    **several: str,
) -> Callable[[Callable[[Show], Iterable[Finding]]], Callable[[Show], Iterable[Finding]]]:
    """Declare a function that looks at the rig alone, whatever the cue.

    Names are the ids of its kinds, with `_` for `-`; each with the sentence that heads a list of several.
    """

    def declare(find: Callable[[Show], Iterable[Finding]]) -> Callable[[Show], Iterable[Finding]]:
        for name, text in several.items():
            id = name.replace("_", "-")
            if id in RIG_KINDS:
                raise ValueError(f"the kind {id} is declared twice")
            RIG_KINDS[id] = RigKind(id, find, text)
        return find

    return declare


def find_in_rig(show: Show) -> list[Finding]:
    """All findings about the rig, worst first."""
    found = [f for find in dict.fromkeys(k.find for k in RIG_KINDS.values()) for f in find(show)]
    return sorted(found, key=lambda f: SEVERITIES.index(f.severity))


def worded(view: CueSolution, finding: Finding, words: Callable[[CueSolution, Sequence[Finding]], str]) -> Finding:
    """The finding with its sentence, said by the same words as a group of its kind."""
    return replace(finding, sentence=words(view, [finding]))


def find_all(view: CueSolution) -> list[Finding]:
    """All findings of one cue, worst first, otherwise in the order of the plan."""
    functions = dict.fromkeys(k.find for k in KINDS.values())
    found = [f for function in functions for f in function(view)]
    return sorted(found, key=lambda f: (SEVERITIES.index(f.severity), ORDER.index(f.id)))
