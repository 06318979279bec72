"""A new show with the rig and the people of another."""

from kymaton.core.model.show import Show, validated


def started_from(show: Show, title: str) -> Show:
    """A new show of the same team: the rig and the people are kept, cues and their wishes are cleared."""
    return validated(
        show.evolve(
            title=title,
            date="",
            notes="",
            ticks=(),
            cues=(),
            plan=tuple(w for w in show.plan if not w.cues),
            picture_plan=tuple(w for w in show.picture_plan if not w.cues),
        )
    )
