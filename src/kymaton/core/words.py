"""Names and numbers as people say them."""

from collections.abc import Iterable

from kymaton.core.model import Listener, Sound

MINUS = "\N{MINUS SIGN}"


def joined(names: Iterable[str]) -> str:
    """`Ilse`, `Ilse and Nadir`, `Ilse, Nadir and Teo`."""
    items = list(dict.fromkeys(names))
    if len(items) < 2:
        return "".join(items)
    return f"{', '.join(items[:-1])} and {items[-1]}"


def said(thing: Sound | Listener) -> str:
    """A sound or listener in the middle of a sentence: people by name, things with their article."""
    if thing.person is not None:
        if isinstance(thing, Sound) and thing.kind == "instrument":
            return f"the {lowered(thing.name)}"
        return thing.name.partition(",")[0]
    return f"the {lowered(thing.name)}"


def lowered(name: str) -> str:
    return name[:1].lower() + name[1:] if name[1:2].islower() else name


def sentence(text: str) -> str:
    return text[:1].upper() + text[1:]


def number(value: float, digits: int = 0) -> str:
    """A figure with a true minus sign, no negative zero."""
    text = f"{value:.{digits}f}"
    if float(text) == 0:
        text = text.lstrip("-")
    return text.replace("-", MINUS)


def ms(value: float) -> str:
    """Milliseconds with one decimal, everywhere alike."""
    return f"{number(value, 1)} ms"


def db(value: float) -> str:
    return f"{number(value)} dB"


def hertz(value: float) -> str:
    return f"{value / 1000:.1f} kHz" if value >= 1000 else f"{value:.0f} Hz"
