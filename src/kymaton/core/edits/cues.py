"""Edits of cues: each takes a Show and gives a new one, or raises ShowError."""

from collections.abc import Iterable
from typing import TypeVar

from kymaton.core.edits.ids import free_id
from kymaton.core.model.cues import Cue, Sounding
from kymaton.core.model.show import Show, validated
from kymaton.core.model.wish import PictureWish, Wish

AnyWish = TypeVar("AnyWish", Wish, PictureWish)


def add_cue(show: Show, name: str, like: str | None = None) -> tuple[Show, str]:
    """A cue at the end, or a copy behind the cue that it is `like` (its wishes too); with its id."""
    id = free_id(name, (c.id for c in show.cues))
    if like is None:
        return validated(show.evolve(cues=(*show.cues, Cue(id=id, name=name)))), id
    at = [c.id for c in show.cues].index(like) + 1
    copy = show.cue(like).evolve(id=id, name=name)
    plans = {
        name: tuple(w.evolve(cues=(*w.cues, id)) if like in w.cues else w for w in getattr(show, name))
        for name in ("plan", "picture_plan")
    }
    return validated(show.evolve(cues=(*show.cues[:at], copy, *show.cues[at:]), **plans)), id


def put_cue(show: Show, cue: Cue) -> Show:
    """The show with this cue in place of the one with its id. Raises ShowError."""
    return validated(show.evolve(cues=tuple(cue if c.id == cue.id else c for c in show.cues)))


def set_sounding(show: Show, cue_id: str, sounds: Iterable[str], told: Sounding | None) -> Show:
    """The show with these sounds sounding, silent or neither in a cue; None takes back what was said."""
    cue, ids = show.cue(cue_id), tuple(sounds)
    kept = {k: v for k, v in cue.sounding.items() if k not in ids}
    return put_cue(show, cue.evolve(sounding=kept if told is None else {**kept, **dict.fromkeys(ids, told)}))


def remove_cue(show: Show, id: str) -> Show:
    """Without a cue; wishes for this cue alone go with it."""
    cues = tuple(c for c in show.cues if c.id != id)
    return validated(show.evolve(cues=cues, plan=_not_in(show.plan, id), picture_plan=_not_in(show.picture_plan, id)))


def _not_in(plan: tuple[AnyWish, ...], cue: str) -> tuple[AnyWish, ...]:
    rest = [(w, tuple(c for c in w.cues if c != cue)) for w in plan]
    return tuple(w.evolve(cues=cues) for w, cues in rest if cues or not w.cues)


def move_cue(show: Show, id: str, to: int) -> Show:
    """The cue at another place in the order, counted from 0."""
    cue = show.cue(id)
    rest = [c for c in show.cues if c.id != id]
    rest.insert(max(0, min(to, len(rest))), cue)
    return show.evolve(cues=tuple(rest))
