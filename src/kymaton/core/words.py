"""The style of every sentence: names with their article and number, verbs that agree, figures as exact as they are.

- People go by name, things with their article: `Ilse`, `the concertina`. What is named by a letter or a number, or as
  somebody's, needs none: `camera A`, `desk 9`, `Teo's kit`. A name that brings an article keeps its own.
- The verb agrees with what it is said of: `the alerts reach`, `Ilse and Nadir hear`. A person is *they*, a thing *it*.
- A delay has one decimal in milliseconds, seconds from one second on, and no digit that its ± does not allow.
- A level beside another says how it is heard; `0 dB under` is `as loud as`.
- People turn off a sound, mute a channel, pull down a send or a fader.
"""

from collections.abc import Iterable

from msgspec import Struct

from kymaton.core.model import Listener, Show, Sound

MINUS = "\N{MINUS SIGN}"
MOST_NAMED = 7  # things in one sentence; chosen: beyond, nobody reads them
RIGHT_QUOTE = "\N{RIGHT SINGLE QUOTATION MARK}"
POSSESSIVE = ("'s", "s'", f"{RIGHT_QUOTE}s", f"s{RIGHT_QUOTE}")
OWN_ARTICLE = {"the", "my", "our", "your", "his", "her", "its", "their", "this", "that", "both", "all", "no"}
# words on s that are one thing, and words without s that are several
SINGULAR = {"atlas", "bass", "brass", "bus", "canvas", "chorus", "gas", "glass", "lens", "news", "press", "series"}
PLURAL = {"children", "men", "people", "women", "feet", "mice"}
ALIVE = {"voice", "talkback", "guest", "host", "performer", "operator"}  # kinds that are somebody, named or not
IRREGULAR = {"be": ("is", "are"), "have": ("has", "have"), "do": ("does", "do"), "can": ("can", "can"),
             "may": ("may", "may"), "must": ("must", "must")}  # fmt: skip


class Noun(Struct, frozen=True):
    """A name as it stands in the middle of a sentence, and whether it is of several."""

    text: str
    plural: bool = False

    def __str__(self) -> str:
        return self.text

    def do(self, verb: str) -> str:
        """With a verb that agrees: `Ilse hears`, `the alerts reach`, `the desk is`."""
        return f"{self.text} {self.verb(verb)}"

    def verb(self, verb: str) -> str:
        """The form of a verb that goes with it: reaches, reach."""
        if verb in IRREGULAR:
            return IRREGULAR[verb][self.plural]
        if self.plural:
            return verb
        if verb.endswith(("s", "sh", "ch", "x", "z", "o")):
            return f"{verb}es"
        if verb.endswith("y") and verb[-2:-1] not in "aeiou":
            return f"{verb[:-1]}ies"
        return f"{verb}s"

    @property
    def own(self) -> str:
        """Of whom it is: `Ilse's`, `the alerts'`, `Ilse and Nadir's`."""
        return f"{self.text}'" if self.plural and self.text.endswith("s") else f"{self.text}'s"


def thing(name: str, people: Iterable[str] = ()) -> Noun:
    """A thing by its name, with its article where it needs one. `people` keep their capital letter."""
    words = name.split() or ["thing"]
    first, many = words[0], _is_plural(words)
    someone = first.removesuffix("'s").removesuffix(f"{RIGHT_QUOTE}s") in set(people)
    if first.endswith(POSSESSIVE):
        return Noun(" ".join(words), many)
    if first.lower() in OWN_ARTICLE:
        return Noun(" ".join([first.lower(), *words[1:]]), many or first.lower() in ("both", "all"))
    if first.lower() in ("a", "an") and len(words) > 1 and not words[1].isdigit():
        return Noun(" ".join(["the", *words[1:]]), many)
    text = " ".join(words) if someone else lowered(" ".join(words))
    if len(words) > 1 and (words[-1].isdigit() or (len(words[-1]) == 1 and words[-1].isupper())):
        return Noun(text)
    return Noun(f"the {text}", many)


def _is_plural(words: list[str]) -> bool:
    last = words[-1].lower().strip(".,;:!?)")
    if {"and", "&", "+"} & set(words[1:-1]) or last in PLURAL:
        return True
    return last.endswith("s") and not last.endswith(("ss", "us", "is", "'s")) and last not in SINGULAR and len(last) > 3


def person(name: str) -> Noun:
    """A person by name: what stands before a comma."""
    return Noun(" ".join(name.partition(",")[0].split()))


def named(item: Sound | Listener) -> Noun:
    """A sound or listener in the middle of a sentence: people by name, things with their article."""
    if item.person is None:
        alive = item.kind in ALIVE and item.name[:1].isupper() and " " not in item.name.strip()
        return person(item.name) if alive else thing(item.name)
    owner, comma, what = (part.strip() for part in item.name.partition(","))
    if isinstance(item, Sound) and item.kind == "instrument":
        return Noun(f"{owner}'s {lowered(what)}") if comma and what else thing(item.name)
    return person(item.name)


def voice(sound: Sound) -> Noun:
    """What is heard of a sound: a person's voice, else the sound itself."""
    noun = named(sound)
    return Noun(f"{noun.own} voice") if sound.person is not None and sound.kind in ("voice", "talkback") else noun


def group(nouns: Iterable[Noun]) -> Noun:
    """Several names as one: `Ilse`, `Ilse and Nadir`, `Ilse, Nadir and the room`; of many the first."""
    items = list(dict.fromkeys(nouns))
    if len(items) == 1:
        return items[0]
    named = [n.text for n in items]
    if len(named) > MOST_NAMED:
        named[MOST_NAMED - 1 :] = [f"{len(named) - MOST_NAMED + 1} others"]
    return Noun(joined(named), len(items) > 1)


def the_device(show: Show, id: str) -> Noun:
    """A device of a show, people's names in it kept."""
    return thing(show.device(id).name, _people(show))


def the_port(show: Show, port_id: str) -> str:
    """A socket by its label, which needs no article: `desk 9`, `switcher HDMI 2`; the device where it has but one."""
    owner, _, name = port_id.partition("/")
    if owner == "sound":
        return str(named(show.sound(name)))
    if owner == "listener":
        return str(named(show.listener(name)))
    label = show.port_label(port_id)
    if not show.port(port_id).name:
        return str(the_device(show, owner))
    return label if label.split()[0] in _people(show) else lowered(label)


def _people(show: Show) -> set[str]:
    return {p.name.partition(" ")[0] for p in show.people}


def joined(names: Iterable[str]) -> str:
    """`Ilse`, `Ilse and Nadir`, `Ilse, Nadir and Teo`."""
    items = list(dict.fromkeys(names))
    if len(items) < 2:
        return "".join(items)
    return f"{', '.join(items[:-1])} and {items[-1]}"


def either(names: Iterable[str]) -> str:
    """`SDI`, `SDI or a booster`."""
    items = list(dict.fromkeys(names))
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} or {items[-1]}"


def said(item: Sound | Listener) -> str:
    """A sound or listener in the middle of a sentence."""
    return named(item).text


def lowered(name: str) -> str:
    """A name in the middle of a sentence: small, unless it is somebody's, or its letters are capitals."""
    first = name.partition(" ")[0]
    if first.endswith(("'s", "\N{RIGHT SINGLE QUOTATION MARK}s", "s'")):
        return name
    return name[:1].lower() + name[1:] if name[1:2].islower() else name


def sentence(text: str) -> str:
    """The text with a capital at its beginning."""
    return text[:1].upper() + text[1:]


def counted(many: int, one: str, several: str = "") -> str:
    """`1 fault`, `3 faults`."""
    return f"{many} {one if many == 1 else several or one + 's'}"


# figures


def number(value: float, digits: int = 0) -> str:
    """A figure with a true minus sign, no negative zero."""
    text = f"{value:.{digits}f}"
    if float(text) == 0:
        text = text.lstrip("-")
    return text.replace("-", MINUS)


def plain(value: float, digits: int = 1) -> str:
    """A figure with at most so many decimals: `11`, `16.5`."""
    text = number(value, digits)
    return text.rstrip("0").rstrip(".") if "." in text else text


def ms(value: float, plus_minus_ms: float = 0.0) -> str:
    """A delay: one decimal in milliseconds, seconds from one second on; no digit that its ± does not allow.

    The last digit stands where the second digit of the ± does (as the GUM, JCGM 100:2008, 7.2.6, advises).
    """
    if abs(value) < 999.95:
        return f"{number(value, 0 if plus_minus_ms >= 10 else 1)} ms"
    digits = 1 if abs(value) >= 10_000 or plus_minus_ms >= 1000 else 2
    return f"{number(value / 1000, digits)} s"


def exact_ms(value: float) -> str:
    """A delay that somebody has set: `20 ms`, `12.5 ms`, `1.5 s`."""
    return f"{plain(value)} ms" if abs(value) < 1000 else f"{plain(value / 1000, 3)} s"


def ms_within(value: float, plus_minus_ms: float) -> str:
    """A delay with its ±, both in one unit: `232 ± 26 ms`, `4.28 ± 0.10 s`."""
    if not plus_minus_ms:
        return ms(value)
    shown, unit = ms(value, plus_minus_ms).split(" ")
    digits = len(shown.partition(".")[2])
    return f"{shown} ± {number(plus_minus_ms / (1000 if unit == 's' else 1), digits)} {unit}"


def frames_said(frames: float) -> str:
    """A number of frames: `5 frames`, `1.5 frames`, `1 frame`."""
    shown = plain(frames)
    return f"{shown} {'frame' if shown == '1' else 'frames'}"


def db(value: float) -> str:
    """A level difference: `12 dB`."""
    return f"{number(value)} dB"


def metres(value: float) -> str:
    """A length: `11 m`."""
    return f"{plain(value)} m"


def under_loudest(relative_db: float) -> str:
    """How a sound stands beside the loudest one at a listener."""
    return f"{db(-relative_db)} under the loudest sound there" if relative_db < -0.5 else "as loud as anything there"


def beside(over_db: float, than: str) -> str:
    """A level beside another: `10 dB softer than heard direct`, `as loud as heard direct`."""
    if abs(over_db) < 0.5:
        return f"as loud as {than}"
    return f"{db(abs(over_db))} {'louder' if over_db > 0 else 'softer'} than {than}"


def hertz(value: float) -> str:
    """A frequency: `250 Hz`, `1.2 kHz`."""
    return f"{value / 1000:.1f} kHz" if value >= 1000 else f"{value:.0f} Hz"
