"""Small shows for tests: a vocabulary of rigs, each with the fewest devices that show something."""

from pathlib import Path

from kymaton import catalogue as kit
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import Change, apply
from kymaton.core.model import Cable, Cue, Device, Listener, Person, Show, Sound, Want, Wish
from kymaton.language.script import read_any

DEMO = Path(__file__).parent.parent / "demo" / "harbour-almanac.kymaton"
HEALTHY = DEMO.with_name("harbour-almanac-healthy.kymaton")


def wire(*pairs: str) -> tuple[Cable, ...]:
    """Cables from lines like `desk/aux1 > headphones/in`, air with its metres: `sound/a > mic/capsule 0.1`."""
    cables = []
    for number, line in enumerate(pairs):
        source, _, rest = line.partition(" > ")
        target, _, metres = rest.partition(" ")
        kind = "air" if metres else "lead"
        cables.append(Cable(id=f"c{number}", source=source, target=target, kind=kind, length_m=float(metres or 0)))
    return tuple(cables)


def voice(id: str, level: float = 66.0, **more: object) -> Sound:
    return Sound.checked(**{"id": id, "name": id.title(), "kind": "voice", "person": id, "level": level, **more})


def listener(id: str, kind: str, **more: object) -> Listener:
    return Listener.checked(id=id, name=id.title(), kind=kind, **more)


def build(*lines: str, start: tuple[str, ...] = ()) -> Show:
    """Ann, Bob who listens, and a rig from lines such as a person types on the map."""
    show = Show(sounds=(voice("ann", person=None),), listeners=(listener("bob", "operator"),))
    for line in (*start, *lines):
        show = read_any(show, line).show
    return show


def one_talker(monitor_delay_ms: float = 0.0, send_db: float = -6.0, floor: float = 0.0) -> Show:
    """Ann at a microphone, heard on her own in-ear and by Bob on headphones, over one desk."""
    return Show.checked(
        people=(Person(id="ann", name="Ann"), Person(id="bob", name="Bob")),
        sounds=(voice("ann"), voice("bob")),
        listeners=(
            listener("ann", "host", person="ann", floor_level=floor),
            listener("bob", "operator", person="bob", floor_level=floor),
        ),
        devices=(
            kit.dynamic_microphone("mic"),
            kit.dynamic_microphone("mic-two"),
            kit.desk("desk", inputs=2, aux=2, gains_db={1: 52, 2: 52}, sends_db={(1, 1): send_db, (1, 2): -6}),
            kit.in_ear("ear", delay_ms=monitor_delay_ms),
            kit.headphones("phones"),
        ),
        cables=wire(
            "sound/ann > mic/capsule 0.1",
            "mic/out > desk/in1",
            "sound/bob > mic-two/capsule 0.1",
            "mic-two/out > desk/in2",
            "desk/aux1 > ear/in",
            "desk/aux2 > phones/in",
            "ear/ears > listener/ann",
            "phones/ears > listener/bob",
        ),
    )


def call_show(
    canceller: bool = False, loudspeaker: bool = False, send_db: float = -12.0, tail_ms: float = 256.0
) -> Show:
    """Host and one guest in a call; the guest's channel is up in the guest's return."""
    guest = kit.Guest("gus", "Gus", loudspeaker)
    return Show(
        people=(Person(id="ann", name="Ann"), Person(id="gus", name="Gus")),
        sounds=(voice("ann"), voice("gus", 62)),
        listeners=(listener("ann", "host", person="ann"), listener("gus", "guest", person="gus")),
        devices=(
            kit.dynamic_microphone("mic"),
            kit.call("call", (guest,), delay_ms=100.0, canceller=canceller, tail_ms=tail_ms),
            kit.call_computer("computer"),
            kit.desk("desk", inputs=2, aux=2, gains_db={1: 52, 2: 4},
                     sends_db={(1, 1): -6, (2, 1): send_db, (2, 2): -6}),
            kit.headphones("phones"),
        ),
        cables=(
            *wire(
                "sound/ann > mic/capsule 0.1",
                "sound/gus > call/gus-mic 0.05",
                "mic/out > desk/in1",
                "call/to-studio > computer/call-in",
                "computer/call-out > call/from-studio",
                "desk/aux1 > computer/line",
                "desk/aux2 > phones/in",
                "phones/ears > listener/ann",
                "call/gus-ear > listener/gus",
            ),
            Cable(id="lead", source="computer/headphones", target="desk/in2", channels=((1, 1),)),
        ),
        plan=(
            Wish(listener="ann", sound="gus", want=Want.MUST),
            Wish(listener="gus", sound="ann", want=Want.MUST),
            Wish(listener="gus", sound="gus", want=Want.MUST_NOT),
        ),
    )  # fmt: skip


def with_device(show: Show, device: Device, *cables: str) -> Show:
    """The show with one more device and cables."""
    more = tuple(c.evolve(id=f"more-{c.id}") for c in wire(*cables))
    return Show.checked(**{**show.fields(), "devices": (*show.devices, device), "cables": (*show.cables, *more)})


def with_plan(show: Show, *wishes: Wish) -> Show:
    return Show.checked(**{**show.fields(), "plan": (*show.plan, *wishes)})


def with_cues(show: Show, *cues: Cue) -> Show:
    return Show.checked(**{**show.fields(), "cues": cues})


def setting(show: Show, cue: str | None = None, **values: object) -> Show:
    """Set controls, written with __ for / and _ for -."""
    changes = [
        Change(cue, key.replace("__", "/").replace("_", "-"), 0.0, value)  # type: ignore[arg-type]
        for key, value in values.items()
    ]
    return apply(show, changes)


def ids(show: Show, severity: str | None = None) -> set[tuple[str, str | None, str | None]]:
    """Findings of a show as (id, listener, sound)."""
    return {(f.id, f.listener, f.sound) for f in Report(show).findings if severity in (None, f.severity)}
