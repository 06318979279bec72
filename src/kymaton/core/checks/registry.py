"""Findings and the kinds of them. Each kind is declared once, beside the function that looks for it."""

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from typing import Any, Literal

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

# ways closed, one of several, opened, one opened that is soon enough; loops; delays
Cure = Literal["", "close", "close one", "open", "sooner", "break", "delay"]
Gathering = Literal["sounds", "each other", "all"]  # what one card tells: see Kind


class Finding(Struct, frozen=True):
    """Something that is wrong, or worth knowing, for one listener and one sound in one cue.

    `delays_us` are the arrivals it is about: the routes to show. `form` is how a table cell tells it.
    """

    id: str
    severity: Severity
    step: Step
    cue: str | None
    listener: str | None = None
    sound: str | None = None
    sentence: str = ""
    reason: str = ""
    evidence: Evidence = field(default_factory=dict)
    delays_us: tuple[int, ...] = ()
    ports: tuple[str, ...] = ()  # for findings that are about a place, not about a listener
    variant: str | None = None
    remedy: str = ""  # what to do, where no control does it
    settings: tuple[tuple[str, Value], ...] = ()  # controls that would cure it, to be proved
    item: str = ""  # what stands for it in a list of several, where that is less than its sentence

    @property
    def key(self) -> Key:
        """What tells this finding from others, also after an edit."""
        return (self.id, self.variant, self.cue, self.listener, self.sound, *self.ports[:2])


class Kind(Struct, frozen=True):
    """A kind of finding in a cue, with all that the rest of the program needs to know of it.

    `rank` is its place among findings of equal severity: what hurts from 0, what everyone hears from 20, what must
    not get out from 40, what is missed from 60, what disturbs from 80, what may go wrong from 100. `form` is the
    shape of a table's cell that has it. `gathered` says which findings share a card: of each listener those about the
    same sounds, also of those who hear `each other`, or `all`. `cure` is what may cure it. A fix may bring no
    finding of a kind that is `watched`.
    """

    id: str
    find: Callable[[CueSolution], Iterable[Finding]]
    rank: int
    together: Callable[[CueSolution, Sequence[Finding]], str] | None = None
    form: str = ""
    gathered: Gathering = "sounds"
    cure: Cure = ""
    watched: bool = False


class RigKind(Struct, frozen=True):
    """A kind of finding about the rig alone: how to look for it, and what to say of several (`{many}` of them)."""

    id: str
    find: Callable[[Show], Iterable[Finding]]
    several: str


Find = Callable[[CueSolution], Iterable[Finding]]
KINDS: dict[str, Kind] = {}
RIG_KINDS: dict[str, RigKind] = {}


def kind(id: str, rank: int, **more: Any) -> Callable[[Find], Find]:
    """Declare a kind of finding, above the function that looks for it; `more` as in Kind."""

    def declare(find: Find) -> Find:
        if id in KINDS or any(k.rank == rank for k in KINDS.values()):
            raise ValueError(f"the kind {id} is declared twice, or its rank {rank} is taken")
        KINDS[id] = Kind(id, find, rank, **more)
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


def find_watched(view: CueSolution, first: Collection[str] = ()) -> Iterator[Finding]:
    """The serious findings that no fix may bring, as they are found; those of the kinds `first` before the others."""
    kinds = sorted((k for k in KINDS.values() if k.watched), key=lambda k: k.id not in first)
    for function in dict.fromkeys(k.find for k in kinds):
        yield from (f for f in function(view) if is_watched(f))


def is_watched(finding: Finding) -> bool:
    """Whether a fix may not bring it: serious, and of a kind that is watched."""
    return KINDS[finding.id].watched and finding.severity != "note"


def find_all(view: CueSolution) -> list[Finding]:
    """All findings of one cue, worst first, otherwise in the order of the plan."""
    functions = dict.fromkeys(k.find for k in KINDS.values())
    return by_weight(f for function in functions for f in function(view))


def by_weight(findings: Iterable[Finding]) -> list[Finding]:
    """The findings of a cue, worst first, otherwise in the order in which they came."""
    return sorted(findings, key=lambda f: (SEVERITIES.index(f.severity), KINDS[f.id].rank))
