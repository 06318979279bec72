"""`kymaton sync`, `embed`, `extract` and `loudness`: films and sounds on the command line."""

import argparse
from typing import Any

from kymaton.cli import json_output, text_output
from kymaton.cli.common import Usage
from kymaton.cli.json_output import print_json
from kymaton.cli.progress import shown
from kymaton.core.errors import FileError
from kymaton.core.formats import read_rate
from kymaton.core.model import ShowError
from kymaton.core.planning.sync_delays import plan_sync
from kymaton.media import jobs
from kymaton.store.showfile import read_show


def clip(options: argparse.Namespace) -> int:
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
    with shown("clip") as progress:
        write_clip(clip, options.out, progress)
    return 0


def align(options: argparse.Namespace) -> int:
    with shown("align") as progress:
        if options.other is None:
            found = jobs.align_sides(options.reference, progress)
        else:
            found = jobs.align_files(options.reference, options.other, progress)
    if options.json:
        print_json(json_output.alignment_json(found))
    else:
        for line in text_output.alignment_lines(found):
            print(line)
    return 0


def measure(options: argparse.Namespace) -> int:
    with shown("measure") as progress:
        found = jobs.measure(options.clip, progress, claps=options.claps, made=options.made)
    if options.json:
        print_json(json_output.measurement_json(found))
    else:
        for line in text_output.measurement_lines(found):
            print(line)
    return 0


def embed(options: argparse.Namespace) -> int:
    from kymaton.media.film.batch import describe, read_orders

    if options.list is not None and (options.picture or options.sound or options.out):
        raise Usage("embed takes a PICTURE, a SOUND and -o OUT, or a --list, not both.")
    orders = read_orders(options.list) if options.list is not None else [_order(options)]
    failed, results = False, []
    with shown("embed") as progress:
        for done in jobs.fulfil_all(orders, progress):
            if done.made is None:
                if options.list is None:
                    raise FileError(done.trouble)
                failed = True
            if options.json:
                results.append(json_output.done_json(done))
            else:
                print(f"{done.order.embedding.out.name}: {done.trouble}" if done.made is None else describe(done))
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


def extract(options: argparse.Namespace) -> int:
    from kymaton.media.film.placing import Track

    if not abs(options.offset_ms) < 1e8:
        raise Usage(f"an offset of {options.offset_ms:g} ms makes no sense.")
    with shown("extract") as progress:
        seconds = jobs.extract(Track(options.film, options.offset_ms, swap=options.swap), options.out, progress)
    print(f"{options.out}: {seconds:.1f} s.")
    return 0


def solve(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    plan = plan_sync(show, options.per_cue, options.every_camera)
    if options.json:
        print_json(json_output.sync_json(show, plan))
    else:
        for line in text_output.sync_lines(show, plan):
            print(line)
    return 0
