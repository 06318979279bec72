"""Budgets: what goes up against what the line has, what USB, computers, supplies, leads and the network can bear."""

import math
from collections.abc import Iterable

from kymaton.core.checks.registry import Evidence, Finding, Severity, rig_kind
from kymaton.core.loadin.charging import charges_of
from kymaton.core.loadin.computing import COMFORTABLE, computers_of, profile_text, profiles_of
from kymaton.core.loadin.mains import CAUTION, chained, feeds_of, wrong_voltage
from kymaton.core.loadin.network import apart, clashes, is_usual, network_of, router_of, strangers, traffic_of
from kymaton.core.loadin.runs import UNSAID_M, bought_m, is_lead, needed_m
from kymaton.core.loadin.stands import DEEP_CM, cases_of, tipping
from kymaton.core.loadin.uplink import fail_over, uplink_of
from kymaton.core.loadin.usb import tree_of, ups
from kymaton.core.loadin.usb_plan import plan_for, told
from kymaton.core.loadin.verdict import Fits
from kymaton.core.model import Show
from kymaton.core.words import group, metres, number, sentence, the_device, the_port

STORE_S = 6.0  # that viewers have in store; see budgets


def _found(
    id: str, severity: Severity, text: str, reason: str, remedy: str = "", ports: tuple[str, ...] = (),
    evidence: Evidence | None = None, item: str = "",
) -> Finding:  # fmt: skip
    return Finding(
        id=id, severity=severity, step="load-in", cue=None, sentence=sentence(text), reason=reason,
        evidence=evidence or {}, ports=ports, remedy=remedy, item=item,
    )  # fmt: skip


def _sure(fits: Fits) -> Severity:
    return "fault" if fits == "does not fit" else "caution"


@rig_kind(uplink_too_small="{many} uplinks are too small")
def uplink_too_small(show: Show) -> Iterable[Finding]:
    """More goes up than a careful part of what the line was measured to have."""
    uplink = uplink_of(show)
    if uplink.fits in ("does not fit", "perhaps"):
        lower = profiles_of(show)[1:]
        ready = f" Ready to go down to: {profile_text(lower[0])}." if lower else ""
        yield _found(
            "uplink-too-small", _sure(uplink.fits),
            "the uplink is too small" if uplink.fits == "does not fit" else "the uplink may be too small",
            uplink.sentence,
            f"A smaller picture, a lower rate, a second uplink; and nobody else on the line.{ready}",
            evidence={"needs_bit_per_s": round(uplink.total), "allowed_bit_per_s": round(uplink.allowed or 0.0)},
        )  # fmt: skip


@rig_kind(second_line_stalls="")
def second_line(show: Show) -> Iterable[Finding]:
    """The second uplink would take over with a gap, or cannot carry the stream."""
    second = fail_over(show, STORE_S)
    if second is not None and (second.stall_s > 0 or second.fits == "does not fit"):
        yield _found(
            "second-line-stalls", "caution", "viewers notice when the second line takes over", second.sentence,
            "Keep a lower profile ready for the second line, or send over both at once.",
            evidence={"second_bit_per_s": round(second.second), "after_s": second.after_s},
        )  # fmt: skip


@rig_kind(usb_too_full="{many} USB buses are too full")
def usb_too_full(show: Show) -> Iterable[Finding]:
    """More is reserved on a USB bus than it has for pictures and sound."""
    tree = tree_of(show)
    for link in tree.links:
        if link.fits in ("does not fit", "perhaps"):
            who = group(the_device(show, b) for b in link.boxes)
            host = list(ups(tree.above, *next((b.parent, b.socket) for b in tree.boxes if b.id in link.boxes)))[-1][0]
            cure = told(show, plan_for(show, host, tree))
            yield _found(
                "usb-too-full", _sure(link.fits),
                f"{who.text} {'do' if who.plural else 'does'} not fit on {link.where}"
                if link.fits == "does not fit" else f"{who.text} may not fit on {link.where}",
                f"{sentence(link.sentence)}. USB {2 if link.usb2 else 3} keeps room for all of it beforehand.",
                cure, link.boxes, {"need_mb_s": round(link.need, 1), "there_mb_s": round(link.there, 1)}, link.where,
            )  # fmt: skip


@rig_kind(usb_power_short="{many} USB sockets give too little power")
def usb_power_short(show: Show) -> Iterable[Finding]:
    """More current is taken than a socket gives; mostly by way of a hub without a supply."""
    for power in tree_of(show).powers:
        if power.fits in ("does not fit", "perhaps"):
            may = "gives" if power.fits == "does not fit" else "may give"
            yield _found(
                "usb-power-short", _sure(power.fits), f"{power.where} {may} too little power",
                f"{sentence(power.sentence)}.", "A hub with a supply of its own, or fewer devices on this socket.",
                power.boxes, {"need_ma": round(power.need), "there_ma": round(power.there)}, power.where,
            )  # fmt: skip


@rig_kind(computer_too_busy="{many} computers have too much to do")
def computer_too_busy(show: Show) -> Iterable[Finding]:
    """More to do than a computer does without dropping pictures."""
    for each in computers_of(show):
        if each.fits not in ("does not fit", "perhaps"):
            continue
        heaviest = max(each.tasks, key=lambda t: t.percent.value)
        lower = profiles_of(show, each.speed)[1:] if each.encodes else []
        cures = ["encode in hardware, where there is one"] if each.encodes else []
        cures += [f"go down to {profile_text(lower[0])}"] if lower else []
        cures += ["give a part of it to a second computer"]
        it = the_device(show, each.computer)
        yield _found(
            "computer-too-busy", _sure(each.fits),
            f"{it.do('have')} too much to do" if each.fits == "does not fit" else f"{it} may have too much to do",
            f"{sentence(each.sentence)}; the most: {heaviest.what}, {number(heaviest.percent.value)} %. "
            f"{number(COMFORTABLE)} % are comfortable.",
            f"{sentence('; '.join(cures))}.", (each.computer,), {"percent": round(each.percent)},
        )  # fmt: skip


@rig_kind(stream_watched_here="{many} computers encode and play the stream as well")
def watched_here(show: Show) -> Iterable[Finding]:
    """The stream is watched on the computer that encodes it."""
    for each in computers_of(show):
        if each.encodes and each.watches:
            yield _found(
                "stream-watched-here", "caution", f"the stream is watched on {the_device(show, each.computer)}",
                "That costs what the encoder needs, and it takes from the same line.",
                "Watch it on a telephone, on another line.", (each.computer,),
            )  # fmt: skip


@rig_kind(supply_full="{many} supplies carry too much")
def supply_full(show: Show) -> Iterable[Finding]:
    """More hangs on a supply than it carries for hours."""
    for feed in feeds_of(show):
        if feed.fits != "fits":
            sure = feed.fits == "does not fit"
            cure = "Take a stronger supply." if feed.is_low else "Spread it over two circuits."
            yield _found(
                "supply-full", "fault" if sure and not feed.assumed else "caution",
                f"{feed.name} carries too much" if sure else f"{feed.name} may carry too much",
                f"{feed.sentence}.", f"{cure} {CAUTION}", (),
                {"supply": feed.name, "watts": round(feed.watts), "plus_minus": round(feed.plus_minus)}, feed.name,
            )  # fmt: skip


@rig_kind(voltage_wrong="{many} devices hang on a wrong voltage")
def voltage_wrong(show: Show) -> Iterable[Finding]:
    """Devices on a supply of another voltage than they want."""
    for device, wants, supply in wrong_voltage(show):
        yield _found(
            "voltage-wrong", "fault", f"{the_device(show, device.id)} wants {number(wants, 1)} V and gets "
            f"{number(supply.volts, 1)} V",
            f"{sentence(supply.name)} gives {number(supply.volts, 1)} V: too much destroys it, too little stops it.",
            "Take the supply that belongs to it, and mark the plugs.", (device.id,),
        )  # fmt: skip


@rig_kind(strips_chained="{many} strips hang on strips")
def strips_chained(show: Show) -> Iterable[Finding]:
    """A strip that hangs on a strip."""
    for strip, on in chained(show):
        yield _found(
            "strips-chained", "caution", f"{strip} hangs on {on}",
            "Every plug between warms up, and the first carries the current of all.",
            f"Plug each strip into a socket of the wall. {CAUTION}", (), {"strip": strip, "on": on}, strip,
        )  # fmt: skip


@rig_kind(charger_too_small="{many} computers are charged with too little")
def charger_too_small(show: Show) -> Iterable[Finding]:
    """A dock that gives less than its computer wants: the battery runs down all the same."""
    hours = sum(c.minutes for c in show.cues) / 60
    for charge in charges_of(show):
        if charge.holds:
            continue
        short = charge.lasts_h < hours
        computer, dock = the_device(show, charge.computer), the_device(show, charge.dock)
        spread = f" ± {number(charge.wants.plus_minus)}" if charge.wants.plus_minus else ""
        yield _found(
            "charger-too-small", "fault" if short else "caution",
            f"{dock} charges {computer} with too little" if charge.gets_w else f"{dock} does not charge {computer}",
            f"It gives {number(charge.gets_w)} W where {number(charge.wants.value)}{spread} W are wanted: the battery "
            f"lasts {number(charge.lasts_h, 1)} h at worst{f', the cues take {number(hours, 1)} h' if hours else ''}.",
            f"Give {computer} its own supply.", (charge.computer, charge.dock),
            {"gives_w": charge.gets_w, "wants_w": charge.wants.value},
        )  # fmt: skip


@rig_kind(lead_too_short="{many} leads are too short")
def lead_too_short(show: Show) -> Iterable[Finding]:
    """Leads that are shorter than their run."""
    for cable in show.cables:
        need = needed_m(show, cable) if cable.plugged and is_lead(cable) else None
        if need is not None and cable.length_m and cable.length_m < need:
            ends = f"{the_port(show, cable.source)} to {the_port(show, cable.target)}"
            unsaid = cable.length_m == UNSAID_M  # taken for that, until somebody says it
            is_short, long = ("may be", "is taken for") if unsaid else ("is", "is")
            yield _found(
                "lead-too-short", "note" if unsaid else "fault",
                f"the {cable.kind} lead from {ends} {is_short} too short",
                f"It {long} {metres(cable.length_m)}{'' if unsaid else ' long'}; its run takes "
                f"{metres(round(need, 1))} with slack.",
                f"Take one of {metres(bought_m(need))}.", (cable.source, cable.target),
                {"lead_m": cable.length_m, "need_m": round(need, 1)},
            )  # fmt: skip


@rig_kind(stand_tips="{many} stands may tip")
def stand_tips(show: Show) -> Iterable[Finding]:
    """Stands whose arm is too long for their weight."""
    for each in tipping(show):
        yield _found(
            "stand-tips", "caution", f"the stand of {the_device(show, each.device)} may tip",
            f"{number(each.weight_kg, 1)} kg hang {number(each.arm_m, 1)} m out.",
            f"Put a sandbag of {number(math.ceil(each.sandbag_kg))} kg on the foot behind, and nobody under it. What "
            "hangs over people is for a rigger.",
            (each.device,), {"sandbag_kg": round(each.sandbag_kg, 1)},
        )  # fmt: skip


@rig_kind(case_hot="{many} cases get too warm", case_too_shallow="{many} cases are not deep enough")
def case_hot(show: Show) -> Iterable[Finding]:
    """Closed cases in which more heat is made than they shed, or that are not deep enough."""
    for case in cases_of(show):
        if case.is_hot:
            yield _found(
                "case-hot", "caution", f"{case.name} gets too warm when it is closed",
                f"{number(case.watts)} W are drawn in {number(case.units)} U, and it sheds about "
                f"{number(case.sheds)} W.", "Take the lids off, leave a unit free between, or put in a fan.",
                case.devices, {"watts": round(case.watts), "sheds": round(case.sheds)}, case.name,
            )  # fmt: skip
        if case.is_deep:
            yield _found(
                "case-too-shallow", "note", f"{case.name} may not be deep enough",
                f"Something in it is {number(case.deepest_cm)} cm deep with its plugs; a usual case has "
                f"{number(DEEP_CM)} cm.", "Measure the case with its lids on, or take angled plugs.", case.devices,
                {"deepest_cm": case.deepest_cm}, case.name,
            )  # fmt: skip


@rig_kind(address_twice="{many} addresses are given twice")
def address_twice(show: Show) -> Iterable[Finding]:
    """Two devices with one address."""
    for address, a, b in clashes(show):
        yield _found(
            "address-twice", "fault", f"{group((the_device(show, a), the_device(show, b)))} have one address",
            f"Both are {address}: what is sent to one reaches the other, or none.", "Give one of them another.", (a, b),
            {"address": address},
        )  # fmt: skip


@rig_kind(address_outside="{many} devices are outside the network")
def address_outside(show: Show) -> Iterable[Finding]:
    """Devices whose address lies in another network than that of the team."""
    net = network_of(show)
    for device in strangers(show):
        yield _found(
            "address-outside", "fault", f"{the_device(show, device.id).do('be')} outside the network",
            f"Its address is {device.address}, and all others are in {net}.",
            "Give it an address in the network.", (device.id,), {"address": device.address},
        )  # fmt: skip


@rig_kind(house_network="", no_router="")
def house_network(show: Show) -> Iterable[Finding]:
    """A network that a house may have as well; control over the network with no router of one's own."""
    router, net = router_of(show), network_of(show)
    if router is not None and is_usual(net):
        yield _found(
            "house-network", "caution", "the router may meet its own network in the house",
            f"{net} is what many routers come with: plugged into one that has it too, it cannot tell in from out.",
            "Set the router to a network that is rare.", (router.id,), {"network": str(net)},
        )  # fmt: skip
    alone = apart(show)
    if len(alone) > 1 and any(show.device(d).kind in ("switcher", "desk") for d in alone) and net_steered(show):
        yield _found(
            "no-router", "note", "what steers others hangs on no router of your own",
            f"{group(the_device(show, d) for d in alone)} must be in one network, and the house's gives them other "
            "addresses each time.", "Bring a small router, and plug its uplink into the house's.", tuple(alone),
        )  # fmt: skip


def net_steered(show: Show) -> bool:
    """Whether something is steered over a network: by a program or a computer, or by hand from a panel on one."""
    return any(show.device(w.source).kind in ("computer", "streaming-program") for w in show.control_ways
               if any(d.id == w.source for d in show.devices))  # fmt: skip


@rig_kind(network_full="{many} ways into the network are too narrow")
def network_full(show: Show) -> Iterable[Finding]:
    """More goes over a lead or by radio than it carries."""
    for each in traffic_of(show):
        if each.fits in ("does not fit", "perhaps"):
            who = group(the_device(show, d) for d in each.devices)
            yield _found(
                "network-full", "caution", f"the network of {who} is too narrow",
                f"{sentence(each.sentence)}.", "Take a lead." if each.wireless else "Take two leads, or send less.",
                each.devices, {"needs_bit_per_s": round(each.rate.value)},
            )  # fmt: skip


@rig_kind(goes_back_early="{many} borrowed devices go back before the show")
def goes_back_early(show: Show) -> Iterable[Finding]:
    """Borrowed devices that have to be back before the day of the show."""
    for device in show.devices:
        if device.owned == "borrowed" and device.gear.back and show.date and device.gear.back < show.date:
            lender = f" to {device.gear.lender}" if device.gear.lender else ""
            yield _found(
                "goes-back-early", "fault", f"{the_device(show, device.id).do('go')} back before the show",
                f"It is due{lender} on {device.gear.back}; the show is on {show.date}.",
                "Ask for longer, or find another.", (device.id,), {"back": device.gear.back},
            )  # fmt: skip
