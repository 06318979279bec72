"""Edits of the hearing plan: each takes a Show and gives a new one."""

from kymaton.core.model.show import Show
from kymaton.core.model.wish import Want, Wish


def clear_want(show: Show, listener: str, sound: str, cue: str | None) -> Show:
    """The show with nothing decided for a cue (None: for any): the default holds again."""
    plan: list[Wish] = []
    for line in show.plan:
        if (line.listener, line.sound) != (listener, sound) or (not line.cues and cue is not None):
            plan.append(line)
            continue
        remaining = tuple(c for c in line.cues if c != cue)
        if remaining and cue is not None:
            plan.append(line.evolve(cues=remaining))
    return show.evolve(plan=tuple(plan))


def set_want(show: Show, listener: str, sound: str, cue: str | None, want: Want) -> Show:
    """The show with a wish for one cue (None: all cues); the largest delay of the earlier wish is kept."""
    old = show.wish(listener, sound, cue)
    wish = Wish(
        listener=listener,
        sound=sound,
        want=want,
        cues=() if cue is None else (cue,),
        max_delay_ms=old.max_delay_ms if old else None,
    )
    return show.evolve(plan=(*clear_want(show, listener, sound, cue).plan, wish))
