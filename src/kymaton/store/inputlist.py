"""Input lists as technicians keep them: CSV in, with any order and names of columns, and CSV out."""

import csv
import io
import re
from pathlib import Path

from msgspec import Struct

from kymaton.catalogue.registry import make_device
from kymaton.core.cable_match import lead_between
from kymaton.core.edits.cables import taken_by
from kymaton.core.edits.ids import free_id, owner
from kymaton.core.errors import FileError
from kymaton.core.model import Cable, Device, Show, ShowError
from kymaton.core.model.show import validated
from kymaton.language.commands import read_command
from kymaton.language.people import read_brief
from kymaton.store.atomic import write_whole
from kymaton.store.csvfile import harmless, rows_of
from kymaton.store.showfile import read_bytes

SUFFIXES = (".csv",)  # of files that are input lists
FIELDS = ("channel", "name", "source", "microphone", "stand", "phantom", "note")
# words by which a column is known, in several habits
WORDS = {
    "channel": ("channel", "ch", "no", "nr", "#", "input", "in", "kanal"),
    "name": ("name", "who", "label", "person", "performer"),
    "source": ("source", "instrument", "what", "sound", "quelle"),
    "microphone": ("microphone", "mic", "mic/di", "mic or di", "di", "pick-up", "pickup", "mikrofon"),
    "stand": ("stand", "stands", "stativ"),
    "phantom": ("phantom", "48v", "+48", "p48", "48 v"),
    "note": ("note", "notes", "comment", "remarks", "bemerkung"),
}
MOST_ROWS, MOST_BYTES = 256, 2_000_000
VOICES = ("voice", "voc", "vox", "speech", "talk", "host", "sing", "announcer", "moderator")
PLAYS = ("playback", "laptop", "computer", "track", "player", "keys", "keyboard", "synth", "drum module")


class InputList(Struct, frozen=True):
    """A list as read: the titles of its columns, what each means (None: nothing), its rows."""

    titles: tuple[str, ...]
    meaning: tuple[str | None, ...]
    rows: tuple[tuple[str, ...], ...]

    def with_meaning(self, column: int, field: str | None) -> "InputList":
        """The list with another meaning for a column; a field is taken from where it was before."""
        kept = [None if m == field else m for m in self.meaning]
        kept[column] = field
        return InputList(self.titles, tuple(kept), self.rows)

    def fields(self) -> list[dict[str, str]]:
        """Each row by what its columns mean."""
        return [{m: cell for m, cell in zip(self.meaning, row, strict=True) if m is not None} for row in self.rows]


def read_input_list(path: Path) -> InputList:
    """Read a CSV file. Raises FileError with one sentence."""
    data = read_bytes(path)
    if len(data) > MOST_BYTES:
        raise FileError(f"{path.name}: it is larger than an input list.")
    for encoding in ("utf-8-sig", "cp1252"):
        try:
            return parse_input_list(data.decode(encoding), path.name)
        except UnicodeDecodeError:
            continue
    raise FileError(f"{path.name}: it is not text.")


def parse_input_list(text: str, name: str) -> InputList:
    """The list in a text; comma, semicolon or tab between the cells. Raises FileError."""
    rows = [row for row in rows_of(text, name) if any(row)]
    if not rows:
        raise FileError(f"{name}: there is no list in it.")
    titles = rows[0]
    meaning = _guess(titles)
    if "name" not in meaning and "source" not in meaning:
        raise FileError(f"{name}, line 1: no column is called name or source; the first line must name the columns.")
    if len(rows) < 2:
        raise FileError(f"{name}: it has a line of titles and no inputs below it.")
    if len(rows) - 1 > MOST_ROWS:
        raise FileError(f"{name}: it has more than {MOST_ROWS} inputs.")
    width = len(titles)
    cells = [(*r, *[""] * width) for r in rows[1:]]
    return InputList(tuple(titles), tuple(meaning), tuple(c[:width] for c in cells))


def _guess(titles: list[str]) -> list[str | None]:
    meaning: list[str | None] = [None] * len(titles)
    for exact in (True, False):
        for column, title in enumerate(titles):
            said = title.lower().strip(" .:")
            for field, names in WORDS.items():
                hit = said in names if exact else any(len(n) > 2 and n in said for n in names)
                if meaning[column] is None and field not in meaning and hit:
                    meaning[column] = field
    return meaning


def add_inputs(show: Show, inputs: InputList) -> Show:
    """The show with a sound, a pick-up, and leads to the desk for each row. Raises ShowError.

    The show's first desk is used, or one is added that is large enough.
    """
    rows = inputs.fields()
    numbers = _channels(rows)
    desk = next((d for d in show.devices if d.kind == "desk"), None)
    if desk is None:
        size = max(8, *(8 * -(-n // 8) for n in numbers))
        show = read_command(show, f"add desk {size} in 6 aux").show
        desk = show.devices[-1]
    made = _Made(show, desk)
    for row, channel in zip(rows, numbers, strict=True):
        made.add(row, channel)
    return made.show()


def _channels(rows: list[dict[str, str]]) -> list[int]:
    """The channel of each row: its number, or the next one."""
    found, last = [], 0
    for row in rows:
        said = re.search(r"\d+", row.get("channel", ""))
        last = int(said[0]) if said else last + 1
        found.append(last)
    return found


class _Made:
    """What a list makes, gathered row by row and proved once."""

    def __init__(self, show: Show, desk: Device) -> None:
        self.before, self.desk = show, desk
        self.cast = Show(people=show.people, places=show.places, sounds=show.sounds)
        self.devices, self.cables = list(show.devices), list(show.cables)
        self.taken = {c.target for c in show.cables}

    def add(self, row: dict[str, str], channel: int) -> None:
        name, source = row.get("name", ""), row.get("source", "")
        title = " ".join(re.sub(r"[,>]", " ", name or source).split()) or f"Input {channel}"
        wanted = f"{name} {source}".lower()
        port = f"{self.desk.id}/in{channel}"
        if port not in self.before.ports:
            raise ShowError(f"{self.desk.name} has no channel {channel}, which '{title}' wants.")
        if port in self.taken:
            raise ShowError(f"{self.desk.name} {channel} is taken, '{title}' cannot go there.")
        electrical = any(w in wanted for w in PLAYS)
        kind = "voice" if any(w in wanted for w in VOICES) else "playback" if electrical else "instrument"
        pick_up = pick_up_kind(row.get("microphone", ""), electrical)
        self.cast = read_brief(self.cast, f"{title}, {kind}").show
        sound = self.cast.sounds[-1]
        label = _free_name({d.name.lower() for d in self.devices}, f"{title} {_short(pick_up)}")
        device = make_device(pick_up, [d.id for d in self.devices], label)
        self.devices.append(device)
        inlet = next(p for p in device.ports if p.direction == "in")
        outlet = next(p for p in device.ports if p.direction == "out")
        lead = lead_between(outlet, self.before.port(port))
        air = inlet.signal == "acoustic" and sound.unit == "dB SPL"
        left = ((1, 1),) if outlet.channels == 2 else ()  # a desk channel takes one side
        self._join(f"{device.id}/{outlet.id}", port, lead.kind if lead else "lead", 3.0, left)
        self._join(f"sound/{sound.id}", f"{device.id}/{inlet.id}", "air" if air else "held", 0.2 if air else 0.0)

    def _join(
        self, source: str, target: str, kind: str, length_m: float, channels: tuple[tuple[int, int], ...] = ()
    ) -> None:
        id = free_id(f"{source}-to-{target}", (c.id for c in self.cables))
        cable = Cable(id=id, source=source, target=target, kind=kind, length_m=length_m, channels=channels)
        self.cables.append(cable)
        self.taken.add(target)

    def show(self) -> Show:
        return validated(
            self.before.evolve(
                people=self.cast.people,
                sounds=self.cast.sounds,
                devices=tuple(self.devices),
                cables=tuple(self.cables),
            )
        )


def _short(kind: str) -> str:
    return "DI" if kind.startswith("di") else "player" if kind == "player" else "mic"


def _free_name(taken: set[str], wanted: str) -> str:
    name, number = wanted, 2
    while name.lower() in taken:
        name, number = f"{wanted} {number}", number + 1
    return name


def pick_up_kind(text: str, electrical: bool) -> str:
    """The catalogue's words for what a list calls a pick-up."""
    said = text.lower()
    for words, kind in (
        (("di", "d.i."), "di 1 ch"),
        (("wireless", "radio", "funk"), "wireless mic"),
        (("condenser", "kondensator"), "condenser mic"),
        (("ribbon",), "ribbon mic"),
        (("headset",), "headset mic"),
        (("clip", "lavalier", "lav"), "clip-on mic"),
        (("shotgun",), "shotgun mic"),
        (("contact", "piezo"), "contact mic"),
        (("boundary",), "boundary mic"),
    ):
        if any(re.search(rf"(?<!\w){re.escape(w)}(?!\w)", said) for w in words):
            return kind
    return "player" if electrical and not said else "dynamic mic"


def input_list_rows(show: Show) -> list[dict[str, str]]:
    """The input list of a show: a row for each desk channel that something comes into."""
    rows = []
    for desk in (d for d in show.devices if d.kind == "desk"):
        for port in (p for p in desk.ports if p.direction == "in"):
            lead = next((c for c in taken_by(show, f"{desk.id}/{port.id}") if c.target == f"{desk.id}/{port.id}"), None)
            if lead is None or lead.source not in show.ports:
                continue
            device, outlet = show.ports[lead.source]
            names = [s.name for s in show.sounds if any(_feeds(show, s.id, device.id, outlet.id))]
            rows.append(
                {
                    "channel": port.name,
                    "name": " + ".join(names),
                    "source": device.name,
                    "microphone": device.detail or device.kind,
                    "stand": "",
                    "phantom": "48 V" if outlet.phantom == "needed" else "",
                    "note": lead.label,
                }
            )
    return rows


def _feeds(show: Show, sound: str, device: str, outlet: str) -> list[bool]:
    inlets = {r.source for r in show.device(device).routes if r.target == outlet}
    return [
        True
        for c in show.cables
        if c.source == f"sound/{sound}" and owner(c.target) == device and c.target.partition("/")[2] in inlets
    ]


def write_input_list(show: Show, path: Path) -> int:
    """Write the input list as CSV; returns the number of rows. Raises FileError."""
    out = io.StringIO()
    writer = csv.DictWriter(out, FIELDS, lineterminator="\n")
    writer.writeheader()
    rows = input_list_rows(show)
    for row in rows:
        writer.writerow({k: harmless(v) for k, v in row.items()})
    write_whole(path, out.getvalue().encode())
    return len(rows)
