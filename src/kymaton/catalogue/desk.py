"""The mixing desk: channels to a stereo main bus and to aux buses."""

from collections.abc import Mapping

from kymaton.catalogue.parts import OFF_DB, Number, choice, figure, gain, into, level, mute, out, use
from kymaton.core.model import Control, ControlUse, Device, Route


def desk(
    id: str,
    name: str = "Desk",
    inputs: int = 16,
    aux: int = 6,
    pairs: tuple[tuple[int, int], ...] = (),
    gains_db: Mapping[int, float] | None = None,
    sends_db: Mapping[tuple[int, int], float] | None = None,
    faders_db: Mapping[int, float] | None = None,
    post_fader: tuple[int, ...] = (),
    delay_ms: Number = 1.5,
) -> Device:
    """A desk with mono channels, a stereo main and mono aux buses.

    `pairs` are stereo pairs of channels, left to main left only and right to main right only. `gains_db`, `faders_db`
    (by channel) and `sends_db` (by channel and aux) are the base settings; what is not named is closed, gain 0.
    Aux buses are before the fader unless named in `post_fader`. The mute of a channel silences its sends too.
    """
    side = {n: s for left, right in pairs for n, s in ((left, 1), (right, 2))}
    say = name.lower()
    controls: list[Control] = []
    routes: list[Route] = []
    latency = figure(delay_ms, 0.9 if isinstance(delay_ms, float) else 0.0)
    for n in range(1, inputs + 1):
        channel = f"{id}/ch{n}"
        controls += [
            gain(f"{channel}/gain", f"{say} {n} gain", (gains_db or {}).get(n, 0.0)),
            mute(f"{channel}/mute", f"{say} {n}"),
            level(f"{channel}/fader", f"{say} {n} to main", "fader", (faders_db or {}).get(n, OFF_DB)),
        ]
        strip = (use(f"{channel}/gain"), use(f"{channel}/mute"))
        main = (*strip, use(f"{channel}/fader"), use(f"{id}/main/fader"), use(f"{id}/main/mute"))
        for target in (side[n],) if n in side else (1, 2):
            routes.append(_route(n, "main", target, latency, "fader", main))
        for a in range(1, aux + 1):
            send = f"{channel}/send/aux{a}"
            controls += [
                level(send, f"{say} {n} to aux {a}", "send", (sends_db or {}).get((n, a), OFF_DB)),
                choice(
                    f"{send}/point",
                    f"{say} {n} to aux {a} takes",
                    "post" if a in post_fader else "pre",
                    ("pre", "post"),
                ),
            ]
            way = (
                *strip,
                use(send),
                use(f"{channel}/fader", when=(f"{send}/point", "post")),
                use(f"{id}/aux{a}/fader"),
                use(f"{id}/aux{a}/mute"),
            )
            routes.append(_route(n, f"aux{a}", 1, latency, "send", way))
    for bus, title in (("main", "main"), *((f"aux{a}", f"aux {a}") for a in range(1, aux + 1))):
        controls += [
            level(f"{id}/{bus}/fader", f"{say} {title} output", "fader", 0.0),
            mute(f"{id}/{bus}/mute", f"{say} {title}"),
        ]
    return Device(
        id=id,
        name=name,
        kind="desk",
        detail=f"{inputs} in, {aux} aux",
        stage="mixed",
        ports=(
            *(
                into(f"in{n}", str(n), "mic", "XLR or TRS", balanced=True, phantom="offered", maximum_level=22.0)
                for n in range(1, inputs + 1)
            ),
            out("main", "main", "line", "XLR", channels=2, balanced=True, nominal_level=4.0, maximum_level=22.0),
            *(
                out(f"aux{a}", f"aux {a}", "line", "TRS 6.3 mm", balanced=True, nominal_level=4.0, maximum_level=22.0)
                for a in range(1, aux + 1)
            ),
        ),
        routes=tuple(routes),
        controls=tuple(controls),
    )


def _route(channel: int, bus: str, side: int, latency: Number, kind: str, controls: tuple[ControlUse, ...]) -> Route:
    return Route.checked(
        source=f"in{channel}", target=bus, target_channel=side, kind=kind, delay_ms=figure(latency), controls=controls
    )
