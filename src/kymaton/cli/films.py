"""`kymaton sync`, `embed`, `extract` and `loudness`: films and sounds on the command line."""

import argparse
from pathlib import Path
from typing import Any

from kymaton.cli import output
from kymaton.cli.common import Usage, print_json
from kymaton.core.errors import FileError
from kymaton.core.formats import read_rate
from kymaton.core.model import ShowError
from kymaton.core.planning.sync_delays import plan_sync
from kymaton.store.showfile import read_show


def add_parsers(commands: Any) -> None:
    """The words of these commands."""
    _sync_parser(commands)
    _embed_parser(commands)
    _sound_parsers(commands)


def _sync_parser(commands: Any) -> None:
    """`kymaton sync …`: clips, measurements and the delays to enter."""
    text = "sound against picture: clips, measurements, the delays to enter"
    parts = commands.add_parser("sync", help=text, description=text).add_subparsers(metavar="WHAT", required=True)
    solve = parts.add_parser("solve", help="the delays to enter", description="The delays to enter, and what remains.")
    solve.add_argument("show", type=Path, metavar="SHOW", help="a .kymaton file")
    solve.add_argument("--per-cue", action="store_true", help="a value of its own in each cue")
    solve.add_argument("--every-camera", action="store_true", help="not only what is on air in each cue")
    solve.add_argument("--json", action="store_true", help="print JSON")
    solve.set_defaults(run=_solve)
    clip = parts.add_parser("clip", help="make a flash-and-beep clip", description="Make a flash-and-beep clip.")
    clip.add_argument("-o", "--out", type=Path, required=True, help="the .mp4, .mov or .mkv file to write")
    clip.add_argument("--fps", default="30", help="frames a second: 25, 29.97, 30000/1001 (default 30)")
    clip.add_argument("--seconds", type=float, default=20.0, help="how long (default 20)")
    clip.add_argument("--size", default="1280x720", help="width x height (default 1280x720)")
    clip.add_argument("--lead-ms", type=float, default=0.0, help="beeps earlier than their flashes by this")
    clip.set_defaults(run=_clip)
    text = "the lead of a recorded clip"
    measured = parts.add_parser("measure", help=text, description=f"Measure {text}.")
    measured.add_argument("clip", type=Path, metavar="CLIP", help="a file with picture and sound")
    measured.add_argument("--claps", action="store_true", help="claps or clicks, not the beeps of a sync clip")
    measured.add_argument("--json", action="store_true", help="print JSON")
    measured.set_defaults(run=_measure)
    text = "how much later the sound of one recording comes in another"
    aligned = parts.add_parser("align", help=text, description=f"Find {text}.")
    aligned.add_argument("reference", type=Path, metavar="REFERENCE", help="a file with sound")
    text = (
        "another file with the same sound; without it, the right side of REFERENCE against its left (send and return)"
    )
    aligned.add_argument("other", type=Path, metavar="OTHER", nargs="?", help=text)
    aligned.add_argument("--json", action="store_true", help="print JSON")
    aligned.set_defaults(run=_align)


def _clip(options: argparse.Namespace) -> int:
    from kymaton.media.clips import Clip, write_clip  # late: FFmpeg takes a while to load

    width, _, height = options.size.partition("x")
    if not (width.isdigit() and height.isdigit() and 64 <= int(width) <= 8192 and 64 <= int(height) <= 8192):
        raise Usage(f"'{options.size}' is not a size like 1280x720.")
    if not abs(options.lead_ms) < 10_000:
        raise Usage("a lead is shorter than ten seconds.")
    try:
        rate = read_rate(options.fps)
    except ShowError as error:
        raise Usage(str(error)) from error
    clip = Clip(rate, options.seconds, int(width) & ~1, int(height) & ~1, options.lead_ms)
    write_clip(clip, options.out)
    return 0


def _align(options: argparse.Namespace) -> int:
    from kymaton.media.align import align_files, align_sides

    if options.other is None:
        found = align_sides(options.reference)
    else:
        found = align_files(options.reference, options.other)
    if options.json:
        print_json(output.alignment_json(found))
    else:
        for line in output.alignment_lines(found):
            print(line)
    return 0


def _measure(options: argparse.Namespace) -> int:
    from kymaton.media.measure import measure

    found = measure(options.clip, claps=options.claps)
    if options.json:
        print_json(output.measurement_json(found))
    else:
        for line in output.measurement_lines(found):
            print(line)
    return 0


def _embed_parser(commands: Any) -> None:
    text = "put a recorded sound into a film, the picture copied bit for bit"
    columns = (
        "Columns of a list (comma or semicolon, in any order): picture, sound, out; and where wanted offset_ms (else "
        "it is found), drift_ppm, gain_db, loudness_lufs, name, language, codec, original (yes), shorter (yes). "
        "All files lie in the folder of the list or below it."
    )
    embed = commands.add_parser("embed", help=text, description=text, epilog=columns)
    embed.add_argument("picture", type=Path, metavar="PICTURE", nargs="?", help="a file with picture")
    embed.add_argument(
        "sound", type=Path, metavar="SOUND", nargs="?", help="its sound; the film itself to shift its own"
    )
    embed.add_argument("-o", "--out", type=Path, help="the .mp4, .mov, .mkv or .webm file to write")
    embed.add_argument("--also", type=Path, action="append", default=[], help="one more sound, as a track of its own")
    embed.add_argument(
        "--list", type=Path, help="many films: a CSV file with picture, sound, out and what else is wanted"
    )
    how = embed.add_mutually_exclusive_group()
    how.add_argument("--offset-ms", type=float, help="how much later the sound comes in SOUND than in PICTURE")
    how.add_argument("--auto", action="store_true", help="find offset and drift by the film's own sound (the default)")
    embed.add_argument("--drift-ppm", type=float, default=0.0, help="how much that grows, with --offset-ms")
    embed.add_argument("--codec", default="keep", choices=("keep", "aac", "flac", "pcm", "opus"), help="of the sound")
    embed.add_argument("--keep-original", action="store_true", help="keep the film's own sound as a second track")
    embed.add_argument("--shorter", action="store_true", help="end the film where the shortest sound ends")
    embed.add_argument("--seconds", type=float, help="only the beginning, to look at it first")
    embed.add_argument("--name", default="", help="name of the new track")
    embed.add_argument("--language", default="", help="language of the new track: eng, deu")
    embed.add_argument("--gain-db", type=float, default=0.0, help="level of the new track")
    embed.add_argument(
        "--loudness", type=float, metavar="LUFS", help="bring the sound to this loudness, by a gain alone"
    )
    embed.add_argument(
        "--true-peak", type=float, default=-1.0, metavar="DBTP", help="which it must not exceed then (-1)"
    )
    embed.add_argument("--swap", action="store_true", help="exchange left and right")
    embed.add_argument("--json", action="store_true", help="print JSON")
    embed.set_defaults(run=_embed)


def _embed(options: argparse.Namespace) -> int:
    from kymaton.media.film.batch import fulfil_all, read_orders, told

    orders = read_orders(options.list) if options.list is not None else [_order(options)]
    failed, results = False, []
    for done in fulfil_all(orders):
        if done.made is None:
            if options.list is None:
                raise FileError(done.trouble)
            failed = True
        if options.json:
            results.append(output.done_json(done))
        else:
            print(f"{done.order.embedding.out.name}: {done.trouble}" if done.made is None else told(done))
    if options.json:
        print_json(results if options.list is not None else results[0])
    return 2 if failed else 0


def _order(options: argparse.Namespace) -> Any:
    from kymaton.media.film.batch import Order
    from kymaton.media.film.embed import Embedding
    from kymaton.media.film.placing import Track

    if options.picture is None or options.sound is None or options.out is None:
        raise Usage("embed takes a PICTURE, a SOUND and -o OUT, or a --list.")
    for value, most, word in (
        (options.gain_db, 60, "gain"), (options.loudness or 0, 70, "loudness"), (options.true_peak, 20, "true peak"),
    ):  # fmt: skip
        if not abs(value) <= most:
            raise Usage(f"a {word} of {value:g} makes no sense.")
    if options.seconds is not None and not 0.1 <= options.seconds <= 1e6:
        raise Usage("the beginning of a film has a tenth of a second at least.")
    first = Track(
        options.sound, options.offset_ms or 0.0, options.drift_ppm, options.name, options.language, options.gain_db,
        options.swap,
    )  # fmt: skip
    more = [Track(p, first.offset_ms, first.drift_ppm, p.stem, "", first.gain_db, first.swap) for p in options.also]
    job = Embedding(
        options.picture, (first, *more), options.out, options.codec, options.keep_original, options.shorter,
        options.seconds,
    )  # fmt: skip
    return Order(job, options.offset_ms is None, options.loudness, options.true_peak)


def _sound_parsers(commands: Any) -> None:
    text = "the sound of a film as a file of its own"
    parser = commands.add_parser("extract", help=text, description=text)
    parser.add_argument("film", type=Path, metavar="FILM", help="a file with sound")
    parser.add_argument("-o", "--out", type=Path, required=True, help="the .wav or .flac file to write")
    parser.add_argument(
        "--offset-ms", type=float, default=0.0, help="cut so much off its beginning (< 0: silence first)"
    )
    parser.add_argument("--swap", action="store_true", help="exchange left and right")
    parser.set_defaults(run=_extract)
    text = "loudness and true peak of a file (ITU-R BS.1770-5, EBU Tech 3341 and 3342)"
    parser = commands.add_parser("loudness", help=text, description=text)
    parser.add_argument("file", type=Path, metavar="FILE", help="a file with sound")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.set_defaults(run=_loudness)


def _extract(options: argparse.Namespace) -> int:
    from kymaton.media.extract import extract
    from kymaton.media.film.placing import Track

    if not abs(options.offset_ms) < 1e8:
        raise Usage(f"an offset of {options.offset_ms:g} ms makes no sense.")
    seconds = extract(Track(options.film, options.offset_ms, swap=options.swap), options.out)
    print(f"{options.out}: {seconds:.1f} s.")
    return 0


def _loudness(options: argparse.Namespace) -> int:
    from kymaton.media.loudness import loudness_of

    found = loudness_of(options.file)
    if options.json:
        print_json(output.loudness_json(found))
    else:
        print(f"{options.file.name}: {output.loudness_line(found)}")
    return 0


def _solve(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    plan = plan_sync(show, options.per_cue, options.every_camera)
    if options.json:
        print_json(output.sync_json(show, plan))
    else:
        for line in output.sync_lines(show, plan):
            print(line)
    return 0
