"""The catalogue by name: device kinds with the words and numbers with which they are asked for.

`desk 16 in 6 aux as Foldback` names a kind, numbers in the units of the kind, and perhaps a name.
"""

import inspect
import re
from collections.abc import Callable, Iterable
from typing import Any

from msgspec import Struct

from kymaton.catalogue import boxes, calls, cameras, computers, ends, links, pickups, pictures, remotes, sources
from kymaton.catalogue.desk import desk, podcast_desk, usb_mixer
from kymaton.catalogue.other_words import ALSO
from kymaton.core.edits.ids import free_id
from kymaton.core.model import Device, ShowError
from kymaton.core.nearest import did_you_mean

ABBREVIATIONS = {"di", "hdmi", "sdi", "usb", "y"}
# in which a person looks for a device: kinds of devices under a heading
GROUPS: dict[str, tuple[str, ...]] = {
    "Microphones": ("microphone", "wireless-microphone", "usb-microphone"),
    "Instruments and players": (
        "keyboard", "drum-module", "record-mixer", "player", "media-player", "second-computer",
    ),
    "Calls and phones": ("call", "phone"),
    "Cameras": ("camera", "webcam", "virtual-camera"),
    "Slides and screens": ("laptop", "picture-player", "dock", "screen"),
    "Boxes between": (
        "di", "stereo-join", "plain-y", "y-lead", "isolator", "pad", "preamp", "stage-box", "delay-unit",
        "bluetooth",
    ),
    "Desks and interfaces": ("desk", "interface", "monitor-controller"),
    "Computers and network": ("computer", "computer-mix", "virtual-sound", "network-audio", "usb-hub", "router"),
    "Panels and remotes": ("remote",),
    "Picture with sound": (
        "switcher", "capture", "embedder", "de-embedder", "frame-delay", "scaler",
    ),
    "Picture from place to place": ("converter", "hdmi-splitter", "sdi-splitter", "hdmi-extender", "network-link"),
    "Ears and loudspeakers": ("headphones", "headphone-amplifier", "in-ear", "loudspeakers", "amplifier", "viewer"),
    "Stream and recording": ("encoder", "streaming-program", "stream", "recorder"),
}  # fmt: skip
OTHERS = "Others"


class Kind(Struct, frozen=True):
    """A kind of device: the words to ask for it, what it is, and numbers as {unit word: parameter}.

    `also` are other words that people have for it.
    """

    words: str
    about: str
    make: Callable[..., Device]
    numbers: dict[str, str]
    fixed: dict[str, Any]
    also: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """The name a device of this kind gets when none is said."""
        return capital(self.words)


def capital(words: str) -> str:
    """Words as a name: `USB mixer`."""
    said = " ".join(w.upper() if w in ABBREVIATIONS else w for w in words.split())
    return said[:1].upper() + said[1:]


def _kind(words: str, about: str, make: Callable[..., Device], numbers: str = "", **fixed: Any) -> Kind:
    units = dict(pair.split("=") for pair in numbers.split())
    return Kind(words, about, make, units, fixed, ALSO.get(words, ()))


def _microphone(words: str, about: str, sensitivity: float, phantom: bool = False) -> Kind:
    detail = words.removesuffix(" mic").removesuffix(" microphone")
    return _kind(words, about, pickups.microphone, detail=detail, sensitivity_mv_per_pa=sensitivity, phantom=phantom)


def _guests(
    id: str, name: str, guests: int = 2, delay_ms: float = 150.0, loudspeakers: int = 0, stereo: bool = False
) -> Device:
    people = [calls.Guest(f"guest{n}", f"guest {n}", n <= loudspeakers) for n in range(1, guests + 1)]
    return calls.call(id, people, name, delay_ms, stereo=stereo)


def _analogue(id: str, name: str, inputs: int = 4, aux: int = 1) -> Device:
    made = desk(id, name, inputs, aux, delay_ms=0.0)
    return made.evolve(detail=f"analogue, {inputs} in, {aux} aux")


def _usb_desk(id: str, name: str, inputs: int = 16, aux: int = 6, returns: int = 1) -> Device:
    return desk(id, name, inputs, aux, tracks=inputs, returns=returns)


IN_A_CALL = "guests=guests guest=guests ms=delay_ms loudspeaker=loudspeakers loudspeakers=loudspeakers"
KINDS: tuple[Kind, ...] = (
    _microphone("dynamic mic", "for voices close by", 2.0),
    _microphone("condenser mic", "needs phantom power", 20.0, True),
    _microphone("ribbon mic", "soft; some are hurt by phantom power", 1.0),
    _microphone("headset mic", "worn, keeps its distance", 6.0, True),
    _microphone("clip-on mic", "small condenser on clothes or an instrument", 8.0, True),
    _kind("lavalier", "3.5 mm plug, needs plug-in power", pickups.lavalier),
    _microphone("shotgun mic", "narrow, from further away", 25.0, True),
    _microphone("contact mic", "on the body of an instrument", 3.0),
    _microphone("boundary mic", "on a table", 12.0, True),
    _microphone("camera mic", "built into a camera: a stand-by only", 5.0),
    _microphone("webcam mic", "built into a webcam: a stand-by only", 4.0),
    _kind("wireless mic", "digital headset with receiver", pickups.wireless_microphone, "ms=delay_ms"),
    _kind("di", "passive, isolates", pickups.di_box, "ch=channels"),
    _kind("active di", "for passive pick-ups, needs phantom power", boxes.active_di),
    _kind("join", "stereo to mono through resistors", boxes.stereo_join),
    _kind("plain y", "stereo to mono by soldering: bad", boxes.plain_y),
    _kind("y lead", "one output into two inputs", boxes.y_lead),
    _kind("isolator", "transformer against hum", boxes.isolating_transformer, "ch=channels"),
    _kind("pad", "makes a microphone softer", boxes.pad, "dB=loss_db"),
    _microphone("kick mic", "dynamic, for loud and low instruments", 1.0),
    _kind("stereo mic", "two capsules in one body, phantom power", pickups.stereo_microphone),
    _kind("usb mic", "its own interface, with headphones", pickups.usb_microphone),
    _kind("bluetooth receiver", "Bluetooth to line", pickups.bluetooth_receiver, "ms=delay_ms"),
    _kind("bluetooth sender", "line to Bluetooth", pickups.bluetooth_sender, "ms=delay_ms"),
    _kind("preamp", "microphone to line", boxes.preamp, "ch=channels dB=gain_db"),
    _kind("stage box", "multicore", boxes.stage_box, "ch=channels"),
    _kind("interface", "for a computer", computers.interface, "in=inputs out=outputs ms=delay_ms"),
    _kind("handheld recorder", "two inputs, used as an interface", computers.handheld_recorder),
    _kind("desk", "digital desk", desk, "in=inputs aux=aux ms=delay_ms"),
    _kind("usb desk", "digital desk, every channel over USB", _usb_desk, "in=inputs aux=aux return=returns"),
    _kind("usb mixer", "small mixer, its mix over USB", usb_mixer, "in=inputs aux=aux"),
    _kind("podcast desk", "microphones, phone, Bluetooth, USB, headphones", podcast_desk, "in=inputs"),
    _kind("mixer", "small analogue mixer", _analogue, "in=inputs aux=aux"),
    _kind("monitor controller", "for the operator's ears", boxes.monitor_controller),
    _kind("headphone amp", "several headphones", boxes.headphone_amplifier, "out=outputs"),
    _kind("headphones", "with their amplifier, mono", ends.headphones),
    _kind("bluetooth headphones", "late by their codec", ends.bluetooth_headphones, "ms=delay_ms"),
    _kind("viewer", "watches the stream on headphones", ends.viewer),
    _kind("viewer on a loudspeaker", "watches the stream aloud", ends.viewer, loudspeaker=True),
    _kind("in-ear", "by lead", ends.in_ear, "ms=delay_ms"),
    _kind("wireless in-ear", "2.4 GHz, 4 to 25 ms", ends.in_ear, "ms=delay_ms", delay_ms=12.0, detail="2.4 GHz"),
    _kind("loudspeakers", "powered", ends.loudspeakers),
    _kind("passive loudspeaker", "needs an amplifier", ends.passive_loudspeaker),
    _kind("amplifier", "for a passive loudspeaker", ends.amplifier),
    _kind("record mixer", "record player mixer with record output", sources.record_mixer),
    _kind("drum module", "electronic drums", sources.drum_module),
    _kind("keyboard", "stereo line", sources.keyboard),
    _kind("player", "computer that plays in stereo", pickups.stereo_player),
    _kind("computer mix", "multitrack mixed in a computer", computers.computer_mix, "in=inputs ms=delay_ms"),
    _kind("streaming program", "mixes and encodes", computers.streaming_program, "in=inputs ms=delay_ms"),
    _kind("virtual sound", "a sound device made by a program", computers.virtual_sound),
    _kind(
        "call",
        "a call with remote guests, some on a loudspeaker",
        _guests,
        IN_A_CALL,
    ),
    _kind(
        "stereo call",
        "a call that carries two channels",
        _guests,
        IN_A_CALL,
        stereo=True,
    ),
    _kind("call computer", "runs a call", calls.call_computer),
    _kind(
        "computer",
        "calls, browser, playback and encoder on one",
        computers.computer,
        "usb=usb call=calls calls=calls ch=call_channels browser=browsers browsers=browsers",
    ),
    _kind("laptop computer", "the same, on its battery", computers.computer, "usb=usb calls=calls", battery_h=3.0),
    _kind("tablet", "call, browser, playback and encoder", computers.tablet),
    _kind("phone", "by Bluetooth", pickups.phone, "ms=delay_ms"),
    _kind("wired phone", "by a lead", pickups.phone, delay_ms=0.5),
    _kind("phone call", "who rings, on a desk's phone socket", calls.phone_call, "ms=delay_ms"),
    _kind("bluetooth phone call", "who rings, by Bluetooth", calls.phone_call, "ms=delay_ms", bluetooth=True),
    _kind("call phone", "runs a call, by a headset lead", calls.call_phone),
    _kind("second computer", "or console, HDMI with sound", sources.second_computer),
    _kind("media player", "plays files, HDMI with sound", links.media_player),
    _kind("hdmi splitter", "one to several", links.hdmi_splitter, "out=outputs"),
    _kind("sdi splitter", "one to several", links.sdi_splitter, "out=outputs"),
    _kind("hdmi extender", "passive, adds about 9 m", links.passive_extender),
    _kind("hdmi booster", "powered, begins a run anew", links.hdmi_booster),
    _kind("usb repeater", "an extension with its own repeater", links.usb_repeater),
    _kind("vga to hdmi", "for old computers", links.vga_to_hdmi),
    _kind("vga computer", "shows pictures by VGA", links.vga_computer),
    _kind("router", "local network and two uplinks", links.router, "ports=sockets"),
    _kind("button panel", "buttons on USB", remotes.button_panel),
    _kind("foot switch", "a pedal on USB", remotes.foot_switch),
    _kind("hand remote", "held, wireless", remotes.hand_remote),
    _kind("control surface", "faders for a desk or a program", remotes.control_surface),
    _kind("bridge program", "passes presses on to devices", remotes.bridge_program),
    _kind("hdmi to sdi", "for long runs", links.hdmi_to_sdi),
    _kind("sdi to hdmi", "for long runs", links.sdi_to_hdmi),
    _kind("twisted pair sender", "HDMI over network cable", links.twisted_pair_sender),
    _kind("twisted pair receiver", "HDMI over network cable", links.twisted_pair_receiver),
    _kind("embedder", "line sound into HDMI", links.embedder),
    _kind("de-embedder", "sound out of HDMI", links.de_embedder),
    _kind("frame delay", "delays a picture by whole frames", links.frame_delay, "fps=fps"),
    _kind("scaler", "any picture format in", links.scaler),
    _kind("camera", "clean HDMI", cameras.camera, "ms=delay_ms"),
    _kind("plain camera", "no clean output", cameras.camera, "ms=delay_ms", clean=False),
    _kind("camera with sound", "sound input, HDMI with sound", cameras.camera_with_sound, "ms=delay_ms"),
    _kind("camcorder", "2 to 3 frames, sound input", cameras.camcorder, "ms=delay_ms"),
    _kind("mirrorless camera", "4 to 6 frames, sound input", cameras.mirrorless, "ms=delay_ms"),
    _kind("pan tilt camera", "SDI and HDMI, steered from afar", cameras.pan_tilt_camera, "ms=delay_ms"),
    _kind("action camera", "small, 3 to 5 frames", cameras.action_camera, "ms=delay_ms"),
    _kind("phone camera", "a phone, by an adapter", cameras.phone_camera, "ms=delay_ms"),
    _kind("streaming phone", "films and streams by itself", cameras.streaming_phone, "ms=delay_ms"),
    _kind("webcam", "camera on USB", cameras.webcam, "ms=delay_ms"),
    _kind("virtual camera", "a camera made by a program", cameras.virtual_camera, "ms=delay_ms"),
    _kind("screen", "that somebody watches", cameras.screen),
    _kind("converting screen", "gives on to HDMI and SDI", cameras.converting_screen),
    _kind("laptop", "shows pictures, HDMI and USB C", pictures.laptop),
    _kind(
        "dock",
        "HDMI from a computer's USB C",
        pictures.dock,
        "display=displays displays=displays usb=usb w=charge_w",
    ),
    _kind("slides", "computer that shows pictures", pictures.slides),
    _kind("switcher", "embeds sound", pictures.switcher, "in=inputs ms=picture_delay_ms"),
    _kind("scaling switcher", "takes any format", pictures.switcher, "in=inputs ms=picture_delay_ms", scales=True),
    _kind("encoding switcher", "streams by itself", pictures.encoding_switcher, "in=inputs"),
    _kind("capture", "HDMI to USB", pictures.capture, "ms=sound_ms fps=most_fps"),
    _kind("cheap capture", "30 frames, may freeze", pictures.capture, "ms=sound_ms", most_fps=30.0, freezes=True),
    _kind("encoder", "a computer", pictures.encoder, "ms=sound_ms"),
    _kind("encoder box", "HDMI to stream", links.encoder_box),
    _kind("network link", "from one room to another", links.network_link, "ms=delay_ms"),
    _kind("network audio", "channels over a local network", links.network_audio, "ch=channels ms=delay_ms"),
    _kind("usb hub", "shares one socket, and its power", links.usb_hub, "ports=ports"),
    _kind("powered usb hub", "shares one socket", links.usb_hub, "ports=ports", powered=True),
    _kind("recorder", "programme, from HDMI", ends.recorder),
    _kind("loop recorder", "programme, gives on its HDMI", ends.loop_recorder),
    _kind("track recorder", "line inputs to files", ends.track_recorder, "ch=channels"),
    _kind("delay", "sound delay", boxes.delay_unit, "ms=delay_ms"),
    _kind("platform", "carries the stream to the audience", ends.stream, "ms=delay_ms"),
)
_own: list[Kind] = []
NUMBER = re.compile(r"(\d+(?:\.\d+)?)\s*([A-Za-z]+)")


def use_own(kinds: Iterable[Kind]) -> None:
    """Let kinds of one's own be found beside those of the catalogue."""
    _own[:] = kinds


def all_kinds() -> tuple[Kind, ...]:
    """The catalogue's kinds and one's own."""
    return (*KINDS, *_own)


def find_kind(text: str) -> Kind:
    """The kind whose words begin the text, the longest first. Raises ShowError when none does."""
    return _found(text)[0]


def usual_name(text: str) -> str:
    """The name of a device that is asked for by these words: what it was called."""
    kind, _, words = _found(text)
    return kind.name if words == kind.words else capital(words)


def _found(text: str) -> tuple[Kind, str, str]:
    """The kind whose words begin the text, what is left of it, and which words these were."""
    said = " ".join(text.lower().replace("-", " ").split())
    known = [(words, kind) for kind in all_kinds() for words in (kind.words, *kind.also)]
    for words, kind in sorted(known, key=lambda k: -len(k[0])):
        for form in (words, f"{words}s", f"{words}es"):  # one, or many
            if f"{said} ".startswith(f"{form.replace('-', ' ')} "):
                return kind, " ".join(text.split())[len(form) :], words
    raise ShowError(f"The catalogue has nothing called '{text.strip()}'.{did_you_mean(said, (w for w, _ in known))}")


MANY = re.compile(r"^(\d+)\s+(\D.*)$")


def how_many(text: str) -> tuple[int, str]:
    """Of `3 webcams` the number and the rest; 1 where none is said."""
    match = MANY.match(text.strip())
    return (int(match[1]), match[2]) if match else (1, text.strip())


def make_device(text: str, taken: Iterable[str], name: str = "") -> Device:
    """A device from words like `desk 16 in 6 aux as Foldback`; its id is free. Raises ShowError.

    Numbers that the kind does not know, or that make no sense, are refused by name.
    """
    wanted, _, said_name = text.partition(" as ")
    kind, rest, _ = _found(wanted)
    values: dict[str, Any] = dict(kind.fixed)
    for number, unit in NUMBER.findall(rest):
        parameter = kind.numbers.get(unit) or kind.numbers.get(unit.lower())
        if parameter is None:
            known = ", ".join(kind.numbers) or "no numbers"
            raise ShowError(f"A {kind.words} takes {known}, not '{unit}'.")
        whole = inspect.signature(kind.make).parameters[parameter].annotation in (int, "int")
        values[parameter] = int(float(number)) if whole else float(number)
        if whole and not 0 <= values[parameter] <= 128:
            raise ShowError(f"A {kind.words} with {number} {unit} is more than Kymaton can lay out.")
    left = NUMBER.sub("", rest).replace(",", " ").strip()
    if left:
        raise ShowError(f"'{left}' says nothing about a {kind.words}.")
    title = said_name.strip() or name or usual_name(wanted)
    made = kind.make(free_id(title, taken), title, **values)
    return made.evolve(made=" ".join((kind.words + rest).split()))


def group_of(kind: Kind) -> str:
    """The heading under which a person looks for a kind."""
    made = make_device(kind.words, ()).kind
    return next((title for title, kinds in GROUPS.items() if made in kinds), OTHERS)
