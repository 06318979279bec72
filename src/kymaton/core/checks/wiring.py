"""Mistakes that a lead makes by itself: what does not fit, what is too long, what harms."""

from collections.abc import Iterable, Iterator

from kymaton.core.cable_match import fits, lead_between
from kymaton.core.checks.registry import Evidence, Finding, Severity, rig_kind
from kymaton.core.checks.rigging import about
from kymaton.core.loadin.mains import root_of
from kymaton.core.loadin.runs import bridges_over, needed_m
from kymaton.core.model import Cable, Device, Port, Show
from kymaton.core.model.device import Value
from kymaton.core.words import counted, either, metres, number, the_device, the_port

# Longest usual runs in metres, by kind of lead; HDMI passive at 1080p (10–15 with good leads), SDI for HD,
# Ethernet by its standard, USB 2 5 m and USB 3 3 m.
ON_EARS = ("headphones", "in-ear")  # kinds of devices
MOST_WAYS = 3  # told over a run that is too long
LONGEST_M = {"HDMI": 7.5, "SDI": 100.0, "network": 100.0, "USB 3": 3.0, "USB C": 3.0, "USB A to C": 5.0, "3.5 mm": 5.0}
UNBALANCED_M = 10.0
FAR_OFF_DB = 10.0  # between nominal levels: +4 dBu into −10 dBV is 11.8 dB
MONO_PLUGS = ("TS 6.3 mm", "3.5 mm mono")
STEREO_SOCKETS = ("TRS 6.3 mm", "3.5 mm stereo")
CARES_FOR_HUM = ("mic", "line", "instrument", "headphone")
Joined = tuple[Cable, Device, Port, Device, Port]


def joints(show: Show) -> Iterator[Joined]:
    """Every plugged lead between two devices, with what it joins."""
    for cable in show.cables:
        if (
            cable.plugged
            and cable.source in show.ports
            and cable.target in show.ports
            and cable.kind not in ("air", "held")
        ):
            yield (cable, *show.ports[cable.source], *show.ports[cable.target])


def place(show: Show, cable: Cable) -> str:
    """Where a cable is, in words."""
    return f"{the_port(show, cable.source)} to {the_port(show, cable.target)}"


def found(
    id: str,
    severity: Severity,
    text: str,
    reason: str,
    cable: Cable,
    remedy: str = "",
    item: str = "",
    settings: tuple[tuple[str, Value], ...] = (),
    **more: float | int | str | bool | list[float],
) -> Finding:
    """A finding about a cable; `more` is its evidence, `settings` are what would cure it."""
    ends = (cable.source, cable.target)
    evidence: Evidence = {"cable": cable.id, **more}
    return about(id, severity, text, reason, remedy=remedy, ports=ends, settings=settings, item=item, evidence=evidence)


@rig_kind(connector_does_not_fit="{many} leads do not fit their sockets")
def connector_does_not_fit(show: Show) -> Iterable[Finding]:
    """Leads whose plugs do not fit the sockets."""
    for cable, _, a, _, b in joints(show):
        if fits(cable.kind, a, b):
            continue
        lead = lead_between(a, b)
        remedy = f"Take this lead: {lead.kind}." if lead else "No lead joins these two; a converter is needed."
        yield found(
            "connector-does-not-fit", "fault", f"the lead from {place(show, cable)} does not fit",
            f"The lead is {cable.kind}; the sockets are {a.connector or a.signal}, and {b.connector or b.signal}.",
            cable, remedy,
        )  # fmt: skip


def expects(show: Show, device: Device, port: Port) -> tuple[str, str] | None:
    """The control with which an input chooses between microphone and line, and its value."""
    for route in device.routes:
        if route.source == port.id:
            for use in route.controls:
                control = show.control(use.control)
                if {"mic", "line"} <= set(control.choices):
                    return control.id, str(control.value)
    return None


@rig_kind(line_into_mic="{many} inputs expect a microphone and get line")
def line_into_mic(show: Show) -> Iterable[Finding]:
    """Line outputs in microphone inputs: they overload."""
    for cable, from_, a, to, b in joints(show):
        chosen = expects(show, to, b)
        if a.signal not in ("line", "headphone") or chosen is None or chosen[1] != "mic":
            continue
        settings: list[tuple[str, Value]] = [(chosen[0], "line")]
        turned_down = _turned_down_bus(show, from_, a)
        if turned_down:
            settings.append((turned_down, 0.0))
        yield found(
            "line-into-mic", "fault", f"{the_port(show, cable.target)} expects a microphone and gets line",
            "Line is about 40 dB stronger than a microphone: it clips, and where it was turned down for that, it hums.",
            cable, settings=tuple(settings),
        )  # fmt: skip


def _turned_down_bus(show: Show, device: Device, port: Port) -> str | None:
    """The fader of the bus that feeds this output, when it stands far down."""
    routes = [r for r in device.routes if r.target == port.id]
    shared = set.intersection(*({u.control for u in r.controls} for r in routes)) if routes else set()
    for id in sorted(shared):
        control = show.control(id)
        if control.role == "fader" and isinstance(control.value, float) and control.value < -15.0:
            return id
    return None


@rig_kind(mic_into_line="{many} inputs expect line and get a microphone")
def mic_into_line(show: Show) -> Iterable[Finding]:
    """Microphones in line inputs: they stay too soft."""
    for cable, _, a, to, b in joints(show):
        chosen = expects(show, to, b)
        if a.signal == "mic" and (chosen[1] == "line" if chosen else b.signal == "line"):
            settings = ((chosen[0], "mic"),) if chosen else ()
            yield found(
                "mic-into-line", "fault",
                f"{the_port(show, cable.target)} expects line and gets a microphone",
                "A microphone is about 40 dB too soft for it: what remains is noise and hum.",
                cable, "" if chosen else "Put a preamp between them.", settings=settings,
            )  # fmt: skip


@rig_kind(instrument_into_line="{many} instruments sound dull at their inputs")
def instrument_into_line(show: Show) -> Iterable[Finding]:
    """Instruments in inputs that load them."""
    for cable, _, a, to, b in joints(show):
        if a.signal == "instrument" and b.signal in ("mic", "line"):
            yield found(
                "instrument-into-line", "caution",
                f"the instrument at {the_port(show, cable.target)} sounds dull",
                f"A passive pick-up wants an instrument input; {the_device(show, to.id).do('load')} it.",
                cable, "Put an active DI between them.",
            )  # fmt: skip


@rig_kind(speaker_into_line="{many} amplifier outputs can do damage")
def speaker_into_line(show: Show) -> Iterable[Finding]:
    """Loudspeaker outputs in inputs: they can destroy them."""
    for cable, _, a, _, b in joints(show):
        if a.signal == "speaker" and b.signal != "speaker":
            yield found(
                "speaker-into-line", "fault", f"the amplifier output from {place(show, cable)} can do damage",
                "An amplifier's output is many volts; this input is made for a few.",
                cable, "Take the signal before the amplifier.",
            )  # fmt: skip


def unbalanced(a: Port, b: Port) -> bool:
    """Whether a port carries its signal against ground."""
    return a.signal in CARES_FOR_HUM and b.signal in CARES_FOR_HUM and not (a.balanced and b.balanced)


@rig_kind(unbalanced_run_too_long="{many} unbalanced leads are too long")
def unbalanced_run(show: Show) -> Iterable[Finding]:
    """Unbalanced leads that are longer than they stay clean."""
    for cable, _, a, _, b in joints(show):
        if unbalanced(a, b) and cable.length_m > UNBALANCED_M:
            yield found(
                "unbalanced-run-too-long", "caution",
                f"the unbalanced lead from {place(show, cable)} is {metres(cable.length_m)} long",
                f"Beyond {metres(UNBALANCED_M)} it picks up hum and loses treble.",
                cable, "Use a DI and a balanced run.", length_m=cable.length_m, limit_m=UNBALANCED_M,
            )  # fmt: skip


@rig_kind(hum_between_supplies="{many} leads may bring hum from one supply to another")
def hum(show: Show) -> Iterable[Finding]:
    """Devices on two circuits joined by an unbalanced lead; strips on one circuit share its earth."""
    for cable, from_, a, to, b in joints(show):
        isolated = {"isolator", "di"} & {from_.kind, to.kind}
        apart = from_.mains and to.mains and root_of(show, from_.mains) != root_of(show, to.mains)
        if apart and unbalanced(a, b) and not isolated:
            yield found(
                "hum-between-supplies", "caution",
                f"{the_device(show, from_.id)} and {the_device(show, to.id)} may hum",
                f"They take their power from '{from_.mains}' and '{to.mains}', and an unbalanced lead joins them.",
                cable, "Isolate the signal with a transformer or a DI. Never lift a safety earth; "
                "a licensed electrician decides about mains.",
            )  # fmt: skip


@rig_kind(stereo_into_balanced="{many} stereo plugs cancel what is alike in left and right")
def stereo_into_balanced(show: Show) -> Iterable[Finding]:
    """Stereo outputs in balanced inputs: what both sides share cancels."""
    for cable, _, a, _, b in joints(show):
        stereo = a.channels == 2 and not a.balanced and a.signal in ("line", "headphone")
        if stereo and b.channels == 1 and b.balanced and not cable.channels:
            yield found(
                "stereo-into-balanced", "fault",
                f"the stereo plug from {place(show, cable)} cancels what is alike in left and right",
                "A balanced input takes the difference of the two sides: voices in the middle vanish.",
                cable, "Take a lead that splits into two, or a join with resistors.",
            )  # fmt: skip


@rig_kind(stereo_meets_mono="{many} leads join stereo to mono")
def stereo_meets_mono(show: Show) -> Iterable[Finding]:
    """A mono plug in a stereo socket, or a stereo plug in a mono one: one side is silent or shorted."""
    for cable, from_, a, to, b in joints(show):
        if a.channels == 1 and b.channels == 2 and a.connector in MONO_PLUGS and b.connector in STEREO_SOCKETS:
            text = f"{the_device(show, to.id).do('get')} one side only"
            who = the_device(show, from_.id)
            why = f"A mono plug from {who} reaches the left contact alone; the right side is silent."
        elif a.channels == 2 and a.connector == "3.5 mm stereo" and b.connector == "3.5 mm mono":
            text = f"the right side of {the_port(show, cable.source)} is shorted at {the_port(show, cable.target)}"
            why = "A mono socket joins the ring of a stereo plug to earth: a side is lost, and not all outputs bear it."
        else:
            continue
        yield found(
            "stereo-meets-mono", "caution", text, why, cable, "Take a lead made for it: mono to stereo, or a join."
        )


@rig_kind(level_far_off="{many} leads join line levels that lie far apart")
def level_far_off(show: Show) -> Iterable[Finding]:
    """Levels far from what the next input is made for."""
    for cable, from_, a, to, b in joints(show):
        if a.signal != "line" or b.signal != "line" or a.nominal_level is None or b.nominal_level is None:
            continue
        over = a.nominal_level - b.nominal_level
        if abs(over) > FAR_OFF_DB:
            how, cure = ("stronger", "Turn the output down") if over > 0 else ("weaker", "Turn the input up")
            yield found(
                "level-far-off", "note" if abs(over) < 2 * FAR_OFF_DB else "caution",
                f"{the_device(show, from_.id).do('be')} {number(abs(over))} dB {how} "
                f"than {the_device(show, to.id).do('expect')}",
                "Line level is not the same everywhere: +4 dBu on stage gear, −10 dBV (−7.8 dBu) "
                "on small gear.",
                cable, f"{cure}, and look at the meter at its loudest.", difference_db=over,
            )  # fmt: skip


@rig_kind(headphone_as_line="{many} headphone outputs are used as line")
def headphone_as_line(show: Show) -> Iterable[Finding]:
    """Headphone outputs in line inputs; headphones themselves are what they are for."""
    for cable, _, a, to, b in joints(show):
        if a.signal == "headphone" and b.signal in ("line", "mic") and to.kind not in ON_EARS:
            yield found(
                "headphone-as-line", "note", f"{the_port(show, cable.source)}, a headphone output, "
                f"goes into {the_port(show, cable.target)} as line",
                "It works, but its level depends on a volume that somebody may turn.",
                cable, "Note the volume, and tape it.",
            )  # fmt: skip


@rig_kind(run_too_long="{many} runs are longer than is usual")
def run_too_long(show: Show) -> Iterable[Finding]:
    """Leads that are longer than their kind carries."""
    for cable, _, _, _, _ in joints(show):
        limit = show.longest_run_m.get(cable.kind, LONGEST_M.get(cable.kind))
        if any("repeater" in a.lower() for a in cable.adapters):
            continue  # made for its length
        length_m = max(cable.length_m, needed_m(show, cable) or 0.0)
        if limit is not None and length_m > limit:
            whose = "the limit of this show" if cable.kind in show.longest_run_m else "the usual limit"
            ways = bridges_over(show, cable.kind, length_m, limit)[:MOST_WAYS]
            told = [
                f"{w.name} (reaches {metres(w.reach_m)}, {counted(w.more_points, 'more thing')} to fail)" for w in ways
            ]
            cure = f"Use {either(told)}, or a good lead that was tested at this length." if told else ""
            yield found(
                "run-too-long", "caution",
                f"the {cable.kind} run from {place(show, cable)} is {metres(length_m)} long",
                f"{metres(limit)} is {whose} for {cable.kind}.",
                cable, cure or "Bring the devices nearer, or use a longer-reaching link.",
                length_m=length_m, limit_m=limit,
            )  # fmt: skip


@rig_kind(embedded_sound_dropped="{many} devices drop the sound inside the picture")
def embedded_dropped(show: Show) -> Iterable[Finding]:
    """Sound inside a picture that a device on its way drops."""
    fed = {c.target for c in show.cables}
    for cable, from_, a, to, b in joints(show):
        carries = (
            a.picture
            and a.channels > 0
            and any(r.medium == "sound" and r.target == a.id and f"{from_.id}/{r.source}" in fed for r in from_.routes)
        )
        if carries and not any(r.medium == "sound" and r.source == b.id for r in to.routes):
            yield found(
                "embedded-sound-dropped", "note",
                f"{the_device(show, to.id).do('drop')} the sound inside the picture from {the_device(show, from_.id)}",
                "The picture goes on, the sound ends here.", cable,
            )  # fmt: skip
