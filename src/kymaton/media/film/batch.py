"""Films to be made, one or a list of them, with what must be found out before: offsets, and gains to a loudness."""

import math
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import get_args

from msgspec import Struct
from msgspec.structs import replace

from kymaton.core.errors import FileError, Progress, part_of
from kymaton.core.words import joined, number
from kymaton.media.clips import beside
from kymaton.media.film.embed import Embedded, Embedding, checked, embed, found_offset, length_s
from kymaton.media.film.placing import Track
from kymaton.media.film.tracks import Codec
from kymaton.media.loudness import Loudness, loudness_of, to_goal
from kymaton.media.reading import why
from kymaton.store.csvfile import rows_of
from kymaton.store.showfile import read_bytes

MOST_ROWS, MOST_BYTES = 500, 1_000_000
NEEDED = ("picture", "sound", "out")
NUMBERS = {"offset_ms": 1e7, "drift_ppm": 5000.0, "gain_db": 60.0, "loudness_lufs": 70.0}
COLUMNS = (*NEEDED, *NUMBERS, "name", "language", "codec", "original", "shorter")
LEVEL_SLACK_DB, MOST_TRIES = 0.05, 3
YES = ("yes", "y", "1", "true", "x")


class Order(Struct, frozen=True):
    """A film to be made. `find`: the tracks are placed by the film's own sound. `goal_lufs`: their loudness."""

    embedding: Embedding
    find: bool = False
    goal_lufs: float | None = None
    most_dbtp: float = -1.0


class JobResult(Struct, frozen=True):
    """What became of an order: the film, or one sentence that says why there is none."""

    order: Order
    made: Embedded | None
    trouble: str = ""
    gain_db: float = 0.0
    reached: Loudness | None = None  # of the first sound, measured in the film that was made


def run_job(order: Order, progress: Progress | None = None) -> JobResult:
    """Make the film of an order. Raises FileError with one sentence, and Stopped."""
    job = order.embedding
    if order.find:
        placed = [found_offset(job.picture, track, part_of(progress, 0.0, 0.3)) for track in job.tracks]
        job = replace(job, tracks=tuple(placed))
    if order.goal_lufs is None:
        return JobResult(order, embed(job, part_of(progress, 0.5, 1.0)))
    return _levelled(order, job, progress)


def _levelled(order: Order, job: Embedding, progress: Progress | None) -> JobResult:
    """Make the film with its sounds brought to the goal, as measured in the film; nothing has its name before."""
    assert order.goal_lufs is not None
    checked(job)
    end_s, part, trial = length_s(job), part_of(progress, 0.3, 0.5), beside(job.out)
    levelled = [to_goal(t, order.goal_lufs, order.most_dbtp, end_s, part) for t in job.tracks]
    try:
        for tries in range(1, MOST_TRIES + 1):  # what a codec leaves out can lift a peak, or be missed
            tried, middle = 1 - 0.5**tries, 1 - 0.6 * 0.5**tries
            made = embed(replace(job, tracks=tuple(levelled), out=trial), part_of(progress, tried, middle))
            reached = loudness_of(trial, part_of(progress, middle, 1 - 0.5 ** (tries + 1)))
            sounds = math.isfinite(reached.integrated_lufs)
            left_db = reached.gain_db(order.goal_lufs, order.most_dbtp) if sounds else 0.0
            if tries == MOST_TRIES or -LEVEL_SLACK_DB <= left_db <= (LEVEL_SLACK_DB if tries == 1 else math.inf):
                break
            levelled[0] = levelled[0].louder(left_db)
        trial.replace(job.out)
    except OSError as error:
        raise FileError(f"{job.out}: it cannot be written ({why(error)}).") from error
    finally:
        trial.unlink(missing_ok=True)
    gain_db = levelled[0].gain_db - job.tracks[0].gain_db
    return JobResult(order, replace(made, out=job.out), "", gain_db, reached)


def fulfil_all(
    orders: list[Order], progress: Progress | None = None, run: Callable[[Order, Progress | None], JobResult] = run_job
) -> Iterator[JobResult]:
    """Make many films, one after the other; one that cannot be made does not stop the others. Raises Stopped."""
    for at, order in enumerate(orders):
        try:
            yield run(order, part_of(progress, at / len(orders), (at + 1) / len(orders)))
        except FileError as error:
            yield JobResult(order, None, str(error))


def describe(done: JobResult) -> str:
    """What was made, in words, or why it was not."""
    made = done.made
    if made is None:
        return done.trouble
    text = f"{made.out}: the sound was {number(abs(made.offset_ms), 2)} ms {'late' if made.offset_ms >= 0 else 'early'}"
    if made.drift_ppm:
        text += f" and drifted by {number(made.drift_ppm, 1)} ppm"
    if made.residual_ms is None:
        text += "; nothing in the film tells what is left"
    else:
        text += f"; measured again, {number(abs(made.residual_ms), 2)} ms are left"
    copied = " It was copied bit for bit." if made.copied else ""
    left = (
        f" Left out, because a {made.out.suffix} file does not take it: {joined(made.left_out)}."
        if made.left_out
        else ""
    )
    return f"{text}.{copied}{gain_text(done)}{left}"


def gain_text(done: JobResult) -> str:
    """What was done for the loudness, as a sentence to add; nothing where it was not asked for."""
    goal_lufs, have = done.order.goal_lufs, done.reached
    if goal_lufs is None or have is None:
        return ""
    way = "stronger" if done.gain_db >= 0 else "softer"
    by = f"It was made {number(abs(done.gain_db), 1)} dB {way}" if abs(done.gain_db) >= 0.05 else "Its level was kept"
    loudness, peak = number(have.integrated_lufs, 1), number(have.true_peak_dbtp, 1)
    text = f" {by}; the film has {loudness} LUFS and a true peak of {peak} dBTP"
    short_lu = goal_lufs - have.integrated_lufs
    if short_lu >= 0.1:
        text += f", {number(short_lu, 1)} LU under the goal"
        if done.order.most_dbtp - have.true_peak_dbtp < 0.1:
            text += ", because the true peak allows no more"
    return f"{text}."


def read_orders(path: Path) -> list[Order]:
    """A list of films as CSV with a line of titles: picture, sound, out, and what else of COLUMNS is wanted.

    Where a row has no `offset_ms`, it is found. All files lie in the folder of the list. Raises FileError.
    """
    data = read_bytes(path)
    if len(data) > MOST_BYTES:
        raise FileError(f"{path.name}: it is larger than a list of films.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileError(f"{path.name}: it is not text in UTF-8.") from error
    rows = rows_of(text, path.name)
    titles = [t.lower() for t in rows[0]] if rows else []
    unknown = [t for t in titles if t not in COLUMNS]
    if unknown or any(n not in titles for n in NEEDED):
        what = f"'{unknown[0]}' is not one of its columns" if unknown else f"it needs {joined(NEEDED)}"
        raise FileError(f"{path.name}: {what}; a list of films may have {joined(COLUMNS)}.")
    filled = [(at, row) for at, row in enumerate(rows[1:], start=2) if any(row)]
    if not filled or len(filled) > MOST_ROWS:
        raise FileError(f"{path.name}: a list has 1 to {MOST_ROWS} films, this one has {len(filled)}.")
    orders = []
    for at, row in filled:
        try:
            orders.append(_order(path.parent, dict(zip(titles, row, strict=False))))
        except ValueError as error:
            raise FileError(f"{path.name}, line {at}: {error}.") from error
    outs = [o.embedding.out for o in orders]
    twice = next((o for o in outs if outs.count(o) > 1), None)
    if twice is not None:
        raise FileError(f"{path.name}: two films would be written to {twice.name}.")
    return orders


def _order(folder: Path, cells: dict[str, str]) -> Order:
    values = {name: _number(name, cells[name]) for name in NUMBERS if cells.get(name)}
    codec = (cells.get("codec") or "keep").lower()
    if codec not in get_args(Codec):
        raise ValueError(f"'{codec}' is not one of the codecs {joined(get_args(Codec))}")
    picture, sound, out = (_inside(folder, name, cells.get(name, "")) for name in NEEDED)
    track = Track(
        sound, values.get("offset_ms", 0.0), values.get("drift_ppm", 0.0), cells.get("name", ""),
        cells.get("language", ""), values.get("gain_db", 0.0),
    )  # fmt: skip
    job = Embedding(
        picture, (track,), out, codec,  # type: ignore[arg-type]
        cells.get("original", "").lower() in YES, cells.get("shorter", "").lower() in YES,
    )  # fmt: skip
    return Order(job, "offset_ms" not in values, values.get("loudness_lufs"))


def _number(name: str, text: str) -> float:
    try:
        value = float(text.replace("−", "-").replace(",", "."))
    except ValueError:
        raise ValueError(f"'{text}' is not a number for {name}") from None
    if not abs(value) <= NUMBERS[name]:
        raise ValueError(f"{text} makes no sense for {name}")
    return value


def _inside(folder: Path, name: str, text: str) -> Path:
    """A file beside the list or below it: a list that was passed on reaches nothing else."""
    if not text:
        raise ValueError(f"{name} is empty")
    path = (folder / text).resolve()
    if not path.is_relative_to(folder.resolve()) or "\0" in text:
        raise ValueError(f"'{text}' lies outside the folder of the list")
    return path
