"""Three uplinks over time to try a stream on, made up: each tells of one way in which lines behave."""

from kymaton.core.loadin.send_buffer import Piece


def _pieces(*pairs: tuple[float, float]) -> tuple[Piece, ...]:
    return tuple(Piece(seconds, mbit * 1e6) for seconds, mbit in pairs)


TRACES: dict[str, tuple[str, tuple[Piece, ...]]] = {
    "dip": (
        "a good line that is slow for half a minute, as when somebody sends a film",
        _pieces((60, 12), (30, 2), (120, 12)),
    ),
    "evening": (
        "a house line that gets slower as neighbours come home, and never quite recovers",
        _pieces((300, 9), (240, 7.5), (240, 6), (300, 5.2), (240, 4.6), (180, 5.5), (300, 6.5)),
    ),
    "mobile": (
        "a radio line in a full hall: fast, slow, gone for four seconds, fast again",
        _pieces((20, 14), (8, 5), (12, 9), (6, 1.5), (4, 0), (10, 6), (15, 16), (7, 3), (18, 11), (5, 0.8), (25, 13)),
    ),
}


def as_text(pieces: tuple[Piece, ...]) -> str:
    """As it is typed: `60 s 12 Mbit/s, 30 s 2 Mbit/s`."""
    return ", ".join(
        f"{p.seconds:g} s " + (f"{p.bit_per_s / 1e6:g} Mbit/s" if p.bit_per_s else "nothing") for p in pieces
    )
