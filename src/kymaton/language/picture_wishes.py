"""Who must see which picture, by typing: `Ilse must see switcher programme`, `Teo must not see slides`."""

import re

from kymaton.core.model import PictureWish, Show, ShowError, Want
from kymaton.core.words import lowered
from kymaton.language.patch import find_end

LINE = re.compile(r"^(.+?)\s+must\s+(not\s+)?see\s+(.+)$", re.IGNORECASE)


def add_picture_wish(show: Show, line: str, cue: str | None) -> tuple[Show, str]:
    """The show with a wish for one cue (None: all cues), and that in words. Raises ShowError."""
    match = LINE.match(line.strip())
    if match is None:
        raise ShowError("Say who must, or must not, see which picture: Ilse must see switcher programme.")
    name = match[1].strip().lower()
    watchers = [x for x in show.listeners if name in (x.name.lower(), x.name.partition(" ")[0].lower())]
    if not watchers:
        raise ShowError(f"Nobody here is called '{match[1].strip()}'.")
    end = find_end(show, match[3], "out")
    outputs = [p for p in end.ports if p in show.ports and show.port(p).picture]
    if not outputs:
        raise ShowError(f"'{match[3].strip()}' gives no picture.")
    wish = PictureWish(
        watcher=watchers[0].id,
        picture=outputs[0],
        want=Want.MUST_NOT if match[2] else Want.MUST,
        cues=() if cue is None else (cue,),
    )
    same = (wish.watcher, wish.picture, wish.cues)
    rest = tuple(w for w in show.picture_plan if (w.watcher, w.picture, w.cues) != same)
    return show.evolve(picture_plan=(*rest, wish)), picture_wish_text(show, wish)


def remove_picture_wish(show: Show, wish: PictureWish) -> Show:
    """The show without a wish about a picture."""
    return show.evolve(picture_plan=tuple(w for w in show.picture_plan if w != wish))


def picture_wish_text(show: Show, wish: PictureWish) -> str:
    """A wish as a sentence: `Ilse must see switcher programme`."""
    verb = "must not see" if wish.want is Want.MUST_NOT else "must see"
    return f"{show.listener(wish.watcher).name} {verb} {lowered(show.port_label(wish.picture))}"
