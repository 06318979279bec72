"""A call with remote guests, and the computer that runs it."""

from collections.abc import Sequence

from msgspec import Struct

from kymaton.catalogue.parts import Number, choice, figure, into, level, mute, out, switch, use
from kymaton.core.model import Control, ControlUse, Device, Figure, Port, Program, Route

HEADSET_GAIN_DB = -106.0  # 86 dB SPL at the headset microphone is −20 dBFS in the call
EAR_GAIN_DB = 95.0  # −20 dBFS in the call is 75 dB SPL at the guest's ears
LOUDSPEAKER_TO_MIC_DB = -25.0  # guest's loudspeaker to guest's microphone, relative to the guest's ears
BACK_DB = EAR_GAIN_DB + LOUDSPEAKER_TO_MIC_DB + HEADSET_GAIN_DB + 20.0  # what a call plays there, as it picks it up
ROOM_MS = 20.0  # buffers of the guest's sound and the way through the air


class Guest(Struct, frozen=True):
    """A remote guest. With a loudspeaker, what is played can be heard by the guest's own microphone."""

    id: str
    name: str
    loudspeaker: bool = False


def call(
    id: str,
    guests: Sequence[Guest],
    name: str = "Call",
    delay_ms: Number = 150.0,
    processing: str = "voice",
    canceller: bool = False,
    return_loss_db: float = 40.0,
    tail_ms: float = 256.0,
    stereo: bool = False,
) -> Device:
    """A call with the studio and several guests, `delay_ms` each way (typical 80–400 ms), mono unless `stereo`.

    The call gives each guest the other guests directly, never themselves. `processing` is voice or original sound, of
    the studio's end; each guest has an end of their own, with what their program does to their voice, and its level.
    The studio's echo canceller knows everything the call plays here, so it weakens all guests in what is sent back.
    """
    way = figure(delay_ms, 70.0 if isinstance(delay_ms, float) else 0.0)
    treat = use(f"{id}/processing", {"voice": 0.0, "original sound": 0.0})
    sides = (1, 2) if stereo else (1,)
    mics = tuple(f"{id}/{g.id}-mic" for g in guests)
    cancel = ControlUse(
        control=f"{id}/canceller",
        gains={"on": -return_loss_db, "off": 0.0},
        only_from=mics,
        reference=f"{id}/to-studio",
        tail_ms=tail_ms,
    )
    ports: list[Port] = [
        into("from-studio", "sending", "network", channels=len(sides), picture=True),
        out("to-studio", "receiving", "network", channels=len(sides), picture=True),
    ]
    routes: list[Route] = []
    controls: list[Control] = [
        choice(f"{id}/processing", f"{name.lower()} processing", processing, ("voice", "original sound"), "processing"),
        choice(f"{id}/canceller", f"{name.lower()} echo canceller", "on" if canceller else "off", ("on", "off")),
    ]
    for guest in guests:
        mic, ear = f"{guest.id}-mic", f"{guest.id}-ear"
        own_mute = (use(f"{id}/{guest.id}/mute"), use(f"{id}/{guest.id}/level"))
        own_treat = use(f"{id}/{guest.id}/processing", {"voice": 0.0, "original sound": 0.0})
        lens, screen = f"{guest.id}-camera", f"{guest.id}-screen"
        ports += [
            into(mic, f"{guest.name} mic", "acoustic"),
            out(ear, f"{guest.name} ears", "acoustic", channels=2),
            into(lens, f"{guest.name} camera", "acoustic", channels=0, picture=True),
            out(screen, f"{guest.name} screen", "acoustic", channels=0, picture=True),
        ]
        routes += [
            Route(source=lens, target="to-studio", medium="picture", delay_ms=way),
            Route(source="from-studio", target=screen, medium="picture", delay_ms=way),
        ]
        at_home = [
            mute(f"{id}/{guest.id}/mute", f"{guest.name} at home"),
            level(f"{id}/{guest.id}/level", f"{guest.name} level at home", "gain", 0.0),
            choice(
                f"{id}/{guest.id}/processing", f"{guest.name} processing", processing, ("voice", "original sound"),
                "processing",
            ),
        ]  # fmt: skip
        controls += [c.evolve(elsewhere=True) for c in at_home]
        headset = figure(HEADSET_GAIN_DB, 6.0)
        routes += [
            Route(source=mic, target="to-studio", target_channel=c, gain_db=headset, delay_ms=way,
                  controls=(*own_mute, own_treat))
            for c in sides
        ]  # fmt: skip
        others = [g for g in guests if g.id != guest.id]
        routes += [Route(source=f"{g.id}-camera", target=screen, medium="picture", delay_ms=way) for g in others]
        for side in (1, 2):
            routes.append(
                Route(
                    source="from-studio",
                    source_channel=min(side, len(sides)),
                    target=ear,
                    target_channel=side,
                    gain_db=figure(EAR_GAIN_DB, 6.0),
                    delay_ms=way,
                    controls=(treat, cancel),
                )
            )
            routes += [
                Route(
                    source=f"{g.id}-mic",
                    target=ear,
                    target_channel=side,
                    gain_db=figure(HEADSET_GAIN_DB + EAR_GAIN_DB, 6.0),
                    delay_ms=way,
                    controls=_home(id, g, treat),
                )
                for g in others
            ]
        if guest.loudspeaker:
            own = f"{id}/{guest.id}/canceller"
            canceller_there = choice(own, f"{guest.name}'s echo canceller", "on", ("on", "off"))
            controls.append(canceller_there.evolve(elsewhere=True))
            routes += _picked_up(id, guest, others, way, (*own_mute, use(own, {"on": -40.0, "off": 0.0})), treat, sides)
    return Device(
        id=id,
        name=name,
        kind="call",
        detail=f"{len(guests)} guests, 1 return{', stereo' if stereo else ''}",
        stage="picked-up",
        ports=tuple(ports),
        routes=tuple(routes),
        controls=tuple(controls),
    )


def _home(id: str, guest: Guest, treat: ControlUse) -> tuple[ControlUse, ...]:
    """What a guest's voice passes at home before it reaches another guest."""
    own = use(f"{id}/{guest.id}/processing", {"voice": 0.0, "original sound": 0.0})
    return (use(f"{id}/{guest.id}/mute"), use(f"{id}/{guest.id}/level"), own)


def _picked_up(
    id: str,
    guest: Guest,
    others: Sequence[Guest],
    way: Figure,
    controls: tuple[ControlUse, ...],
    treat: ControlUse,
    channels: tuple[int, ...],
) -> list[Route]:
    """What a guest's loudspeaker plays goes into the guest's microphone, and so a second time to everybody else.

    The studio comes back to itself and twice to the other guests; each of those comes back to itself and twice to all.
    """
    later = figure(2 * way.value + ROOM_MS, 2 * way.plus_minus)
    half_db = 0.0 if len(channels) == 1 else -6.0  # of a loudspeaker that plays both
    heard: list[tuple[str, int, float, tuple[ControlUse, ...]]] = [("from-studio", c, half_db, ()) for c in channels]
    heard += [(f"{g.id}-mic", 1, HEADSET_GAIN_DB, (use(f"{id}/{g.id}/mute"),)) for g in others]
    ears = [(f"{g.id}-ear", side) for g in others for side in (1, 2)]
    return [
        Route(
            source=source,
            source_channel=channel,
            target=target,
            target_channel=side,
            gain_db=figure(gain_db + BACK_DB + (EAR_GAIN_DB if target != "to-studio" else 0.0), 6.0),
            delay_ms=later,
            controls=(*controls, *mute_there, *((treat,) if source != "from-studio" or target != "to-studio" else ())),
        )
        for source, channel, gain_db, mute_there in heard
        for target, side in [*(("to-studio", c) for c in channels), *ears]
    ]


def call_computer(
    id: str,
    name: str = "Call computer",
    headphones_full_scale_dbu: float = 8.0,
    input_full_scale_dbu: float = 6.0,
    hdmi_sound: bool = False,
) -> Device:
    """A computer that runs a call: its headphone output, its line input, its HDMI output with embedded sound."""
    return Device(
        id=id,
        name=name,
        kind="computer",
        detail="runs the call",
        stage="mixed",
        ports=(
            into("call-in", "call", "network", picture=True),
            out("call-out", "call", "network", picture=True),
            into("line", "line in", "line", "3.5 mm stereo", maximum_level=input_full_scale_dbu),
            out(
                "headphones",
                "headphones",
                "headphone",
                "3.5 mm stereo",
                channels=2,
                maximum_level=headphones_full_scale_dbu,
            ),
            out("hdmi", "HDMI", "hdmi", "HDMI A", channels=2, picture=True),
            into("camera", "camera", "usb", "USB A", 0, picture=True),
        ),
        routes=(
            Route(source="call-in", target="hdmi", medium="picture", delay_ms=figure(30.0, 15.0)),
            Route(source="camera", target="call-out", medium="picture", delay_ms=figure(40.0, 20.0)),
            *(
                Route(
                    source="call-in",
                    target="headphones",
                    target_channel=side,
                    kind="switch",
                    gain_db=figure(headphones_full_scale_dbu),
                    delay_ms=figure(22.0, 8.0),
                    controls=(use(f"{id}/speaker", {"headphones": 0.0, "headphones and HDMI": 0.0}),),
                )
                for side in (1, 2)
            ),
            *(
                Route(
                    source="call-in",
                    target="hdmi",
                    target_channel=side,
                    kind="switch",
                    delay_ms=figure(9.0, 4.0),
                    controls=(use(f"{id}/speaker", {"HDMI": 0.0, "headphones and HDMI": 0.0}),),
                )
                for side in (1, 2)
            ),
            Route(
                source="line",
                target="call-out",
                gain_db=figure(-input_full_scale_dbu),
                delay_ms=figure(12.0, 8.0),
                controls=(use(f"{id}/microphone"),),
            ),
        ),
        controls=(
            choice(
                f"{id}/speaker",
                f"{name.lower()} plays to",
                "headphones and HDMI" if hdmi_sound else "headphones",
                ("headphones", "HDMI", "headphones and HDMI"),
            ),
            switch(f"{id}/microphone", f"{name.lower()} microphone"),
        ),
        programs=(
            Program(
                id="call",
                name="Call",
                kind="call",
                chosen={"loudspeaker": f"{id}/speaker", "microphone": f"{id}/microphone"},
            ),
        ),
    )


def call_phone(id: str, name: str = "Call phone") -> Device:
    """A phone that runs a call: earpiece and microphone on one headset lead, on its battery."""
    made = call_computer(id, name, headphones_full_scale_dbu=2.0, input_full_scale_dbu=-20.0)
    ports = tuple(p for p in made.ports if p.id != "hdmi")
    speaker = choice(f"{id}/speaker", f"{name.lower()} plays to", "headphones", ("headphones",))
    return made.evolve(
        detail="a phone runs the call",
        ports=ports,
        routes=tuple(r for r in made.routes if r.target != "hdmi"),
        controls=(speaker, *made.controls[1:]),
        battery_h=figure(5.0, 2.0),
    )


def phone_call(id: str, name: str = "Phone call", bluetooth: bool = False, delay_ms: Number = 250.0) -> Device:
    """A caller by phone: the phone is joined to the desk by a headset lead, or by Bluetooth, both ways.

    `caller` is who rings; what they hear is what the desk sends to the phone.
    """
    way = figure(delay_ms + (100.0 if bluetooth else 0.0), 100.0) if isinstance(delay_ms, float) else delay_ms
    sides = (into("in", "in", "line", "3.5 mm stereo"), out("out", "out", "line", "3.5 mm stereo"))
    joined = tuple(p.evolve(nominal_level=-20.0, maximum_level=0.0) for p in sides)
    if bluetooth:
        joined = (into("in", "in", "bluetooth"), out("out", "out", "bluetooth"))
    level_dbu = 0.0 if bluetooth else -2.0
    paired = switch(f"{id}/paired", f"{name.lower()} pairing") if bluetooth else None
    uses = (use(paired.id),) if paired else ()
    band = {"low_hz": 300.0, "high_hz": 3400.0}
    return Device(
        id=id,
        name=name,
        kind="phone",
        detail="a call, by Bluetooth" if bluetooth else "a call, by a lead",
        stage="picked-up",
        ports=(
            into("caller-mic", "caller mic", "acoustic"),
            out("caller-ear", "caller ear", "acoustic"),
            *joined,
        ),
        routes=(
            Route.checked(
                source="caller-mic", target="out", gain_db=figure(HEADSET_GAIN_DB + level_dbu, 6.0), delay_ms=way,
                controls=uses, **band,
            ),
            Route.checked(
                source="in", target="caller-ear", gain_db=figure(EAR_GAIN_DB - level_dbu, 6.0), delay_ms=way,
                controls=uses, **band,
            ),
        ),
        controls=(paired,) if paired else (),
        battery_h=figure(8.0, 3.0),
    )  # fmt: skip
