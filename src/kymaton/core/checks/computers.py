"""Programs on computers and the devices they hold; clocks of digital sound."""

from collections.abc import Iterable, Iterator

from kymaton.core.checks.registry import Finding, rig_kind
from kymaton.core.checks.rigging import about
from kymaton.core.checks.wiring import found, joints, place
from kymaton.core.edits.ids import owner
from kymaton.core.model import Control, Device, Port, Program, Show
from kymaton.core.nets import connected_components, net_of
from kymaton.core.words import group, plain, the_device, thing

SYSTEM_DEFAULT = "system default"
AS_THE_SHOW = "as the show"  # a rate that nobody has set otherwise
CLOCKED = ("interface", "desk", "usb-microphone")  # boxes with a clock of their own on USB


def _choices(show: Show, device: Device) -> Iterator[tuple[Program, str, Control]]:
    """What the programs of a computer have chosen, by use."""
    for program in device.programs:
        for use, control_id in program.chosen.items():
            yield program, use, show.control(control_id)


@rig_kind(system_default="{many} programs take whatever the system chooses")
def system_default(show: Show) -> Iterable[Finding]:
    """Programs that take whatever device the system prefers: it changes when something is plugged in."""
    for device in show.devices:
        for program, use, control in _choices(show, device):
            if control.value == SYSTEM_DEFAULT:
                yield about(
                    "system-default", "caution",
                    f"the {use} of {thing(program.name)} is whatever the system chooses",
                    "It changes when something is plugged in.", device.id,
                    "Choose the device by name in the program.",
                )  # fmt: skip


@rig_kind(chosen_name_twice="{many} chosen names stand for two devices each")
def chosen_name_twice(show: Show) -> Iterable[Finding]:
    """Programs that have chosen a name which two devices share."""
    for device in show.devices:
        for program, use, control in _choices(show, device):
            if list(control.choices).count(str(control.value)) > 1:
                yield about(
                    "chosen-name-twice", "caution",
                    f"two devices on {the_device(show, device.id)} are called '{control.value}'",
                    f"Nobody can tell which of them is the {use} of {thing(program.name)}.", device.id,
                    "Rename one of them in the system, or unplug it.",
                )  # fmt: skip


def _leads_anywhere(show: Show, device: Device, control: Control) -> bool:
    """Whether what a program takes goes on from the computer: an output that its choice opens has a lead."""
    outputs = {f"{device.id}/{r.target}" for r in device.routes if any(u.control == control.id for u in r.controls)}
    return not outputs or any(c.source in outputs and c.plugged for c in show.cables)


@rig_kind(two_programs_one_device="{many} devices are wanted by two programs each")
def two_programs(show: Show) -> Iterable[Finding]:
    """A microphone or camera that two programs have chosen: many systems give it to one alone."""
    for device in show.devices:
        holders: dict[tuple[str, str], list[str]] = {}
        for program, use, control in _choices(show, device):
            if not _leads_anywhere(show, device, control):
                continue  # that program is not used
            if use in ("microphone", "camera") and isinstance(control.value, str) and control.value != SYSTEM_DEFAULT:
                holders.setdefault((use, control.value), []).append(program.name)
        for (use, value), programs in holders.items():
            if len(programs) > 1:
                yield about(
                    "two-programs-one-device", "caution",
                    f"{group(map(thing, programs))} on {the_device(show, device.id)} "
                    f"{'both' if len(programs) == 2 else 'all'} want '{value}'",
                    f"A {use} is often held by the program that took it first; the other one gets nothing.", device.id,
                    "Give each program a device of its own, or a virtual one between them.",
                )  # fmt: skip


@rig_kind(clock_masters="{many} groups of digital devices have no one clock")
def clock_masters(show: Show) -> Iterable[Finding]:
    """Digital sound that is joined needs one clock: two, or none, give clicks or silence."""
    pairs = ((a.clock_control, b.clock_control) for _, _, a, _, b in joints(show))
    for together in connected_components(net_of((a, b) for a, b in pairs if a and b)):
        clocks = [c.id for c in show.controls() if c.id in together]
        masters = [c for c in clocks if show.control(c).value == "own"]
        if len(masters) == 1:
            continue
        who = group(the_device(show, owner(c)) for c in (masters or clocks))
        text = f"{who} each keep a clock of their own" if masters else f"none of {who} keeps the clock"
        keeper = (masters or clocks)[0]
        settings = tuple((c, "own" if c == keeper else "network") for c in clocks)
        yield about(
            "clock-masters", "fault", text,
            "Digital sound that is joined runs on one clock, else it clicks or is silent.",
            owner(keeper), ports=tuple(owner(c) for c in clocks),
            settings=tuple((c, v) for c, v in settings if show.control(c).value != v),
        )  # fmt: skip


@rig_kind(virtual_sound_device="{many} devices must be made anew after a restart")
def virtual(show: Show) -> Iterable[Finding]:
    """Devices made by a program that are in use: they are gone after a restart."""
    used = {owner(end) for c in show.cables for end in (c.source, c.target)}
    for device in show.devices:
        if device.kind in ("virtual-sound", "virtual-camera") and device.id in used:
            yield about(
                "virtual-sound-device", "caution", f"{the_device(show, device.id)} must be made anew after a restart",
                "A device made by a program is gone when the program or the computer starts again.", device.id,
                "Put it on the checklist, or take the hardware way.",
            )  # fmt: skip


@rig_kind(sample_rates_differ="{many} leads join devices of different sample rates")
def sample_rates(show: Show) -> Iterable[Finding]:
    """Digital sound between devices of different sample rates."""
    for cable in show.cables:
        if not cable.plugged or cable.source not in show.ports or cable.target not in show.ports:
            continue
        a, b = show.port(cable.source), show.port(cable.target)
        first_hz, second_hz = rate_hz(show, a), rate_hz(show, b)
        if first_hz and second_hz and first_hz != second_hz:
            names = [p.rate_control for p in (a, b) if p.rate_control is not None]
            settings = [(c, AS_THE_SHOW) for c in names if show.control(c).value != AS_THE_SHOW]
            yield found(
                "sample-rates-differ", "fault", f"the sample rates differ from {place(show, cable)}",
                f"{plain(first_hz / 1000)} kHz meets {plain(second_hz / 1000)} kHz without conversion: "
                "clicks, or silence.",
                cable, "Set both to one rate.", settings=tuple(settings),
            )  # fmt: skip


def rate_hz(show: Show, port: Port) -> float | None:
    """The sample rate at a digital port: as it is set, that of the show, or the one that it is made for."""
    if port.rate_control is None:
        return port.sample_rate_hz
    said = str(show.control(port.rate_control).value)
    return show.sample_rate_hz if said == AS_THE_SHOW else round(1000 * float(said.removesuffix(" kHz")))


@rig_kind(two_clocks="{many} programs take sound from two clocks")
def two_clocks(show: Show) -> Iterable[Finding]:
    """A program that mixes what comes from two boxes, each with a clock of its own."""
    fed: dict[str, list[str]] = {}
    for cable in show.cables:
        if cable.plugged and cable.source in show.ports and cable.target in show.ports:
            (from_, a), (to, _) = show.ports[cable.source], show.ports[cable.target]
            if to.kind == "computer-mix" and from_.kind in CLOCKED and a.signal == "usb":
                fed.setdefault(to.id, []).append(from_.id)
    for mix, boxes in fed.items():
        each = list(dict.fromkeys(boxes))
        if len(each) > 1:
            yield about(
                "two-clocks", "caution",
                f"{the_device(show, mix).do('take')} sound from {group(the_device(show, d) for d in each)} at once",
                "Each of them keeps its own time: after minutes one is a sample ahead, then more, and it clicks.",
                mix, "Bring all of it in by one box, or join their clocks.",
            )  # fmt: skip
