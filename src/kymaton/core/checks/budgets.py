"""Budgets: what goes up against what the line has, what hangs on a supply."""

from collections.abc import Iterable

from kymaton.core.checks.registry import Finding, rig_kind
from kymaton.core.loadin.mains import CAUTION, supplies_of
from kymaton.core.loadin.uplink import uplink_of
from kymaton.core.model import Show
from kymaton.core.words import sentence


@rig_kind(uplink_too_small="{many} uplinks are too small")
def uplink_too_small(show: Show) -> Iterable[Finding]:
    """More goes up than a careful part of what the line was measured to have."""
    uplink = uplink_of(show)
    if uplink.fits not in ("does not fit", "perhaps"):
        return
    sure = uplink.fits == "does not fit"
    yield Finding(
        id="uplink-too-small",
        severity="fault" if sure else "caution",
        step="load-in",
        cue=None,
        sentence="The uplink is too small" if sure else "The uplink may be too small",
        reason=uplink.sentence,
        evidence={"needs_bit_per_s": round(uplink.total), "allowed_bit_per_s": round(uplink.allowed or 0.0)},
        remedy="A smaller picture, a lower rate, a second uplink; and nobody else on the line.",
    )


@rig_kind(supply_full="{many} supplies carry too much")
def supply_full(show: Show) -> Iterable[Finding]:
    """More hangs on a supply than a usual circuit carries for hours."""
    for supply in supplies_of(show):
        if not supply.fits:
            yield Finding(
                id="supply-full",
                severity="caution",
                step="load-in",
                cue=None,
                sentence=sentence(f"{supply.name} carries too much"),
                reason=f"{supply.sentence}.",
                evidence={"watts": round(supply.watts), "plus_minus": round(supply.plus_minus)},
                remedy=f"Spread it over two circuits. {CAUTION}",
            )
