"""Sound against picture: how early or late each sound is at each destination, with each camera, in each cue.

`lead_ms > 0` means that sound is early (as in ITU-R BT.1359-1), so a positive lead is cured by delaying sound by the
same number [1]. ± of a lead leaves out what sound and picture go through together: a device that delays both by one
and the same figure moves them alike [2].

1. Recommendation ITU-R BT.1359-1: the sign, and what viewers notice and accept.
2. JCGM 100:2008 (GUM), 5.2: figures that are correlated.
"""

import math
from collections import Counter
from collections.abc import Iterator
from fractions import Fraction
from typing import Literal

from msgspec import Struct

from kymaton.core.model import Figure, Listener, Show, Sound, Want
from kymaton.core.model.tolerance import WINDOWS, SyncTolerance
from kymaton.core.signal.air import Whereabouts, places_in
from kymaton.core.signal.cue_solution import MISSING_DB, CueSolution
from kymaton.core.signal.graph import SignalGraph
from kymaton.core.signal.picture import PictureWay, picture_nets, picture_ways
from kymaton.core.signal.trace import Path

SHOWS_NOTHING = ("picture-player", "laptop", "media-player", "second-computer", "virtual-camera")
Verdict = Literal["inside", "perhaps", "outside"]


class AVOffset(Struct, frozen=True):
    """How early one sound is against one picture at one destination in one cue.

    `camera_ms` is the part of the picture's delay that the camera itself makes. `controls` says how much the lead grows
    (in ms) when a delay control grows by 1 ms: −1 for a delay of the sound, +1 for one of the picture. `doubts` are the
    devices whose figures make the ±, the largest first, with their share in ms and whether the figure is only assumed.
    `window` is what is allowed at this destination; `chain` are the devices on the way of the picture that delay it.
    """

    cue: str | None
    destination: str
    camera: str
    source: str
    sound: str
    picture_us: int
    sound_us: int
    plus_minus_ms: float
    camera_ms: float
    on_air: bool
    controls: tuple[tuple[str, int], ...]
    doubts: tuple[tuple[str, float, bool], ...]
    window: SyncTolerance
    chain: tuple[str, ...] = ()

    @property
    def lead_us(self) -> int:
        """How much earlier the sound is, in µs."""
        return self.picture_us - self.sound_us

    @property
    def lead_ms(self) -> float:
        """How much earlier the sound is, in ms."""
        return self.lead_us / 1000.0

    def with_camera(self, camera_ms: float) -> tuple[float, float]:
        """Delays of picture and sound (ms) if the camera were this late, less what both have in common."""
        picture_ms = self.picture_us / 1000 - self.camera_ms + camera_ms
        common = min(picture_ms, self.sound_us / 1000)
        return picture_ms - common, self.sound_us / 1000 - common

    @property
    def strain(self) -> float:
        """How much of its window the lead uses: 1 at either edge."""
        return self.window.strain(self.lead_ms)

    @property
    def verdict(self) -> Verdict:
        """Inside surely, inside perhaps, or outside surely."""
        window = self.window
        early, late = self.lead_ms + self.plus_minus_ms, self.lead_ms - self.plus_minus_ms
        if early <= window.early_ms and late >= -window.late_ms:
            return "inside"
        return "outside" if late > window.early_ms or early < -window.late_ms else "perhaps"


def window_of(show: Show) -> SyncTolerance:
    """The tolerance that the show has chosen."""
    return WINDOWS[show.goals.sync_window]


def window_at(show: Show, listener: Listener) -> SyncTolerance:
    """The tolerance at a destination: for a guest in a call what viewers accept, for no call keeps a programme's."""
    return WINDOWS["BT.1359 acceptable"] if listener.kind == "guest" else window_of(show)


def frame_ms(show: Show) -> float:
    """How long a frame lasts."""
    return float(1000 / Fraction(show.picture.rate))


def leads(view: CueSolution, on_air: bool = False) -> list[AVOffset]:
    """All leads of a cue: for each destination that is sent pictures, each camera, and what it shows that is heard.

    With `on_air` only those of pictures that are on air.
    """
    found = []
    nets = picture_nets(view.show, view.cue)
    where = places_in(view.show, view.cue)
    for listener in view.show.listeners:
        for way in picture_ways(view.show, view.cue, listener.id, nets):
            for sound in shown(view.show, way.source, where) if way.on_air or not on_air else ():
                if _counts(view, listener, sound):
                    path = view.strongest_path(listener.id, sound.id)
                    if path is not None:
                        found.append(_lead(view, listener, way, sound, path))
    return found


def _counts(view: CueSolution, listener: Listener, sound: Sound) -> bool:
    """Whether a sound matters for a destination: it is heard there, may be, and is not the watcher's own."""
    own = listener.person is not None and listener.person == sound.person
    wanted = view.want(listener, sound) is not Want.MUST_NOT
    return not own and wanted and view.audible(listener, sound, MISSING_DB)


def shown(show: Show, source: str, where: Whereabouts) -> Iterator[Sound]:
    """Sounds whose making is seen in the picture that is taken at this input.

    A camera shows what sounds in the air of its place, unless the device names its sounds; a guest's camera in a call
    shows that guest.
    """
    device = show.device(source.partition("/")[0])
    first = {c.source.partition("/")[2]: c.target for c in show.cables if c.source.startswith("sound/")}
    for sound in show.sounds:
        if device.shows is not None:
            seen = sound.id in device.shows
        elif device.kind in SHOWS_NOTHING or sound.unit != "dB SPL" or sound.id not in first:
            seen = False
        elif device.kind == "call":
            seen = first[sound.id] == source.replace("-camera", "-mic")
        else:
            there = show.ports.get(first[sound.id])
            remote = there is not None and there[0].kind == "call"
            here, made = where.of(device), where.of(sound)
            apart = here is not None and made is not None and here.id != made.id
            seen = not remote and not apart and sound.kind in ("voice", "instrument")
        if seen:
            yield sound


def _lead(view: CueSolution, listener: Listener, way: PictureWay, sound: Sound, path: Path) -> AVOffset:
    share: Counter[tuple[str, Figure]] = Counter(way.figures)
    share.subtract(Counter(_sound_figures(view.show, view.graph, path)))
    doubts = [
        (device, abs(times) * figure.plus_minus, figure.source == "assumed")
        for (device, figure), times in share.items()
        if times and figure.plus_minus
    ]
    controls: Counter[str] = Counter(way.controls)
    controls.subtract(Counter(sound_controls(view, path)))
    return AVOffset(
        cue=view.cue_id,
        destination=listener.id,
        camera=way.camera,
        source=way.source,
        sound=sound.id,
        picture_us=way.delay_us,
        sound_us=path.delay_us,
        plus_minus_ms=math.sqrt(sum(ms**2 for _, ms, _ in doubts)),
        camera_ms=sum(f.value for d, f in way.figures if d == way.camera),
        on_air=way.on_air,
        controls=tuple((c, n) for c, n in sorted(controls.items()) if n),
        doubts=tuple(sorted(doubts, key=lambda d: -d[1])),
        window=window_at(view.show, listener),
        chain=tuple(dict.fromkeys(d for d, f in way.figures if f.value or f.plus_minus)),
    )


def _sound_figures(show: Show, graph: SignalGraph, path: Path) -> Iterator[tuple[str, Figure]]:
    for edge in path.edges:
        origin = graph.edges[edge]
        if origin.device is not None and origin.route is not None:
            yield origin.device, show.device(origin.device).routes[origin.route].delay_ms


def sound_controls(view: CueSolution, path: Path) -> Iterator[str]:
    """Delay controls on a route, as often as they act."""
    show = view.show
    for edge in path.edges:
        for use in view.graph.edges[edge].uses:
            acts = use.when is None or show.value(use.when.control, view.cue_id) == use.when.value
            if acts and show.control(use.control).kind == "delay":
                yield use.control


def worst(rows: list[AVOffset]) -> list[AVOffset]:
    """Of each destination and camera the sound that strains its window most."""
    found: dict[tuple[str | None, str, str], AVOffset] = {}
    for row in rows:
        key = (row.cue, row.destination, row.source)
        if key not in found or row.strain > found[key].strain:
            found[key] = row
    return list(found.values())
