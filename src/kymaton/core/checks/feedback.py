"""Loops: those that run away, those that ring, and those without any delay."""

from collections.abc import Iterable, Sequence

from kymaton.core.checks.registry import Evidence, Finding, kind
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.words import beside, db, group, ms, the_device

RINGS_BELOW_DB = 6.0
ROOM_PEAKS_DB = 10.0  # rooms peak about 10 dB above their mean level


def _together(view: CueSolution, findings: Sequence[Finding]) -> str:
    return findings[0].sentence


@kind("loop", rank=0, cure="break", watched=True, together=_together)
@kind("loop-without-delay", rank=1, cure="break", watched=True, together=_together)
def loop(view: CueSolution) -> Iterable[Finding]:
    """Parts of the rig that feed themselves with less margin than is safe, or without any delay."""
    show = view.show
    for found in view.loops:
        air = not set(view.graph.air_edges).isdisjoint(found.edges)
        margin = found.margin_db - (ROOM_PEAKS_DB if air else 0.0)
        ports = found.ports(view.graph)
        devices = list(dict.fromkeys(p.partition("/")[0] for p in ports))
        through = group(the_device(show, d) for d in devices)
        evidence: Evidence = {"margin_db": round(margin, 1), "delay_ms": found.delay_us / 1000.0}
        if found.without_delay:
            yield Finding(
                id="loop-without-delay",
                severity="fault",
                step="path",
                cue=view.cue_id,
                sentence=f"Sound goes round in {through} without any delay",
                reason="No real gear does this: a delay in the loop is not entered, or a cable is wrong.",
                evidence=evidence,
                ports=ports,
            )
        if margin >= RINGS_BELOW_DB:
            continue
        runs = margin <= 0
        end = ("runs away" if found.single else "may run away") if runs else "rings"
        yield Finding(
            id="loop",
            severity="fault" if runs else "caution",
            step="path",
            cue=view.cue_id,
            sentence=f"Sound goes round in {through}{',' if through.plural else ''} and {end}",
            reason=f"Each turn takes {ms(found.delay_us / 1000)} and is {'only ' if margin >= 0.5 else ''}"
            f"{beside(-margin, 'the one before')}."
            + (f" {db(ROOM_PEAKS_DB)} are allowed for the peaks of the room." if air else "")
            + (f" It takes {ms(60 / margin * found.delay_us / 1000)} to fall by 60 dB." if not runs else "")
            + (" Its last turns are not counted." if view.hearing.truncated and not runs else "")
            + (" All else is judged as if it were opened." if found.margin_db <= 0 else "")
            + (" Turn monitors down before opening it: this can hurt ears." if runs else ""),
            evidence=evidence,
            ports=ports,
        )
