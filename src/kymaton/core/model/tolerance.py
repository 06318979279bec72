"""How early or late sound may be against picture, by the standards that say so."""

from typing import Literal

from msgspec import Struct

SyncWindow = Literal["R 37", "BT.1359 detectable", "BT.1359 acceptable"]


class SyncTolerance(Struct, frozen=True):
    """How early and how late sound may be, in ms (both positive)."""

    name: SyncWindow
    early_ms: float
    late_ms: float

    def strain(self, lead_ms: float) -> float:
        """How much of the window a lead uses: 1 at either edge."""
        return max(lead_ms / self.early_ms, -lead_ms / self.late_ms)


# EBU R 37: at the output of the programme; ITU-R BT.1359-1: detectable, and acceptable
WINDOWS: dict[SyncWindow, SyncTolerance] = {
    tolerance.name: tolerance
    for tolerance in (
        SyncTolerance("R 37", 40.0, 60.0),
        SyncTolerance("BT.1359 detectable", 45.0, 125.0),
        SyncTolerance("BT.1359 acceptable", 90.0, 185.0),
    )
}
