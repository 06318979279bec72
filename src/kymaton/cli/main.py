"""`kymaton`: the window, and the same computations on files."""

import argparse
import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NoReturn

from kymaton import __version__
from kymaton.cli import output, simulations
from kymaton.core.fixes import all_fixes
from kymaton.core.formats import read_rate
from kymaton.core.model import Listener, Show, ShowError, Sound
from kymaton.core.model.edit import apply
from kymaton.core.planner import propose
from kymaton.core.render import RenderError
from kymaton.core.report import Report
from kymaton.core.sync import plan_sync
from kymaton.core.view import Burst, CueView
from kymaton.core.words import ms, number
from kymaton.store.demo import demo_show
from kymaton.store.showfile import FileError, read_show, schema, write_show
from kymaton.store.stems import copy_stems


class Usage(Exception):
    """One sentence about words that the command does not know."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command. 0: done, no faults; 1: the show has faults; 2: it could not be done, one line on stderr."""
    try:
        options = _parser().parse_args(arguments)
        code: int = options.run(options)
        sys.stdout.flush()
        return code
    except (FileError, RenderError, Usage) as error:
        print(f"kymaton: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except KeyboardInterrupt:
        print("kymaton: stopped.", file=sys.stderr)
        return 2


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise Usage(f"{message}. `{self.prog} --help` lists what can be asked.")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="kymaton", description="What every listener of a live stream will really hear.")
    parser.add_argument("--version", action="version", version=f"Kymaton {__version__}")
    parser.set_defaults(run=_window, show=None)
    commands = parser.add_subparsers(metavar="COMMAND")

    def command(name: str, run: object, text: str, show: bool = True) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        if show:
            sub.add_argument("show", type=Path, metavar="SHOW", help="a .kymaton file")
        sub.set_defaults(run=run)
        return sub

    opened = command("open", _window, "open the window on a show")
    opened.set_defaults(run=_window)
    command("demo", _demo, "open the window on the demo show", show=False)
    check = command("check", _check, "findings; exit 1 when there are faults")
    hear = command("hear", _hear, "arrivals at listeners")
    plan = command("plan", _plan, "mix-minus proposal")
    render = command("render", _render, "write what a listener hears in a cue")
    command("schema", _schema, "JSON Schema of the show file", show=False)
    _sync_parser(commands)
    _embed_parser(commands)
    simulations.add_parser(commands)
    for sub in (check, hear, render):
        sub.add_argument("--cue", help="id of a cue", required=sub is render)
    for sub in (hear, render):
        sub.add_argument("--listener", help="id of a listener", required=sub is render)
    for sub in (check, hear, plan, render):
        sub.add_argument("--json", action="store_true", help="print JSON")
    plan.add_argument("--apply", action="store_true", help="write the show with the proposal applied")
    plan.add_argument("-o", "--out", type=Path, help="the file to write")
    render.add_argument("-o", "--out", type=Path, required=True, help="the .wav or .flac file to write")
    render.add_argument("--sound", action="append", default=[], help="only this sound (may be given several times)")
    return parser


def _sync_parser(commands: "argparse._SubParsersAction[_Parser]") -> None:
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
    aligned.add_argument("other", type=Path, metavar="OTHER", help="another file with the same sound")
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
    from kymaton.media.align import align_files

    found = align_files(options.reference, options.other)
    if options.json:
        _print_json(output.alignment_json(found))
    else:
        for line in output.alignment_lines(found):
            print(line)
    return 0


def _measure(options: argparse.Namespace) -> int:
    from kymaton.media.measure import measure

    found = measure(options.clip, claps=options.claps)
    if options.json:
        _print_json(output.measurement_json(found))
    else:
        for line in output.measurement_lines(found):
            print(line)
    return 0


def _embed_parser(commands: "argparse._SubParsersAction[_Parser]") -> None:
    text = "put a recorded sound into a film, the picture copied bit for bit"
    embed = commands.add_parser("embed", help=text, description=text)
    embed.add_argument("picture", type=Path, metavar="PICTURE", help="a file with picture")
    embed.add_argument("sound", type=Path, metavar="SOUND", help="the sound for it; the film itself to shift its own")
    embed.add_argument("-o", "--out", type=Path, required=True, help="the .mp4, .mov, .mkv or .webm file to write")
    how = embed.add_mutually_exclusive_group()
    how.add_argument("--offset-ms", type=float, help="how much later the sound comes in SOUND than in PICTURE")
    how.add_argument("--auto", action="store_true", help="find offset and drift by the film's own sound (the default)")
    embed.add_argument("--drift-ppm", type=float, default=0.0, help="how much that grows, with --offset-ms")
    embed.add_argument("--codec", default="keep", choices=("keep", "aac", "flac", "pcm", "opus"), help="of the sound")
    embed.add_argument("--keep-original", action="store_true", help="keep the film's own sound as a second track")
    embed.add_argument("--name", default="", help="name of the new track")
    embed.add_argument("--language", default="", help="language of the new track: eng, deu")
    embed.add_argument("--gain-db", type=float, default=0.0, help="level of the new track")
    embed.add_argument("--swap", action="store_true", help="exchange left and right")
    embed.add_argument("--json", action="store_true", help="print JSON")
    embed.set_defaults(run=_embed)


def _embed(options: argparse.Namespace) -> int:
    from kymaton.media.embed import Embedding, embed, found_offset
    from kymaton.media.placing import Track

    track = Track(
        options.sound, options.offset_ms or 0.0, options.drift_ppm, options.name, options.language, options.gain_db,
        options.swap,
    )  # fmt: skip
    if options.offset_ms is None:
        track = found_offset(options.picture, track)
    made = embed(Embedding(options.picture, (track,), options.out, options.codec, options.keep_original))
    if options.json:
        _print_json(output.embedded_json(made))
    else:
        print(output.embedded_line(made))
    return 0


def _solve(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    plan = plan_sync(show, options.per_cue, options.every_camera)
    if options.json:
        _print_json(output.sync_json(show, plan))
    else:
        for line in output.sync_lines(show, plan):
            print(line)
    return 0


def _window(options: argparse.Namespace) -> int:
    from kymaton.app.run import run  # late: the commands need no window

    return int(run(options.show))


def _demo(options: argparse.Namespace) -> int:
    from kymaton.app.run import run

    return int(run(demo_show()))


def _known(kind: str, id: str | None, ids: Sequence[str]) -> None:
    if id is not None and id not in ids:
        raise Usage(f"there is no {kind} '{id}'; there are {', '.join(ids) or 'none'}.")


def _names(show: Show, options: argparse.Namespace) -> None:
    _known("cue", getattr(options, "cue", None), [c.id for c in show.cues])
    _known("listener", getattr(options, "listener", None), [x.id for x in show.listeners])


def _print_json(content: object) -> None:
    print(json.dumps(content, ensure_ascii=False, indent=1, allow_nan=False))


def _check(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    _names(show, options)
    report = Report(show, only=options.cue)
    fixes = all_fixes(report)
    if options.json:
        _print_json(output.check_json(report, fixes))
    else:
        for finding in report.findings:
            cue = show.cue(finding.cue).name if finding.cue else "Rig" if finding.step == "path" else "Base state"
            fix = fixes.get(finding.key)
            print(
                f"{finding.severity:8}{cue}: {finding.sentence}. {finding.reason}"
                + (f" Fix: {fix.title}." if fix else f" {finding.remedy}" if finding.remedy else "")
            )
        counts = [f"{report.count(s)} {s}{'' if report.count(s) == 1 else 's'}" for s in ("fault", "caution", "note")]
        print(f"{show.title}: {', '.join(counts)}.")
    return 1 if report.count("fault") else 0


def _hear(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    _names(show, options)
    cues: list[str | None] = [options.cue] if options.cue else [c.id for c in show.cues] or [None]
    listeners = [options.listener] if options.listener else [x.id for x in show.listeners]
    views = [CueView(show, cue) for cue in cues]
    if options.json:
        found = [output.hear_json(v, listeners) for v in views]
        _print_json(
            {
                "cue": cues[0] if len(cues) == 1 else None,
                "arrivals": [a for part in found for a in part["arrivals"]],
                "loops": [x for part in found for x in part["loops"]],
            }
        )
        return 0
    for view in views:
        print(view.cue.name if view.cue else "Base state")
        for listener in (show.listener(x) for x in listeners):
            for sound in show.sounds:
                for burst in {b.delay_us: b for b in view.bursts(listener, sound)}.values():
                    spread = view.plus_minus_ms(listener.id, sound.id, burst.delay_us)
                    print(_arrival_line(listener, sound, burst, spread))
    return 0


def _arrival_line(listener: Listener, sound: Sound, burst: Burst, spread_ms: float) -> str:
    delay = f"{ms(burst.delay_ms)} ± {number(spread_ms)} ms"
    level = f"{number(sound.level + burst.gain_db, 1)} {listener.unit}"
    polarity = "  opposite polarity" if burst.polarity < 0 else ""
    return f"  {listener.name:12}{sound.name:14}{delay:>20}{level:>16}{polarity}"


def _plan(options: argparse.Namespace) -> int:
    if options.apply and options.out is None:
        raise Usage("--apply needs -o OUT, the file to write.")
    show = read_show(options.show)
    proposal = propose(Report(show))
    if options.apply:
        write_show(apply(show, proposal.changes), options.out)
        copy_stems(show, options.show.parent, options.out.parent)
    if options.json:
        _print_json(output.plan_json(proposal))
        return 0
    for change in proposal.changes:
        print(output.change_line(show, change))
    for problem in proposal.impossible:
        where = show.cue(problem.cue).name if problem.cue else "All cues"
        print(f"Not possible, {where}: {problem.sentence}.")
    print(f"{len(proposal.changes)} changes, {len(proposal.cured)} findings vanish.")
    return 0


def _render(options: argparse.Namespace) -> int:
    from kymaton.media.audition import make_audition, write_audition  # late: reading sound takes a while to load

    show = read_show(options.show)
    _names(show, options)
    for sound in options.sound:
        _known("sound", sound, [s.id for s in show.sounds])
    audition = make_audition(show, options.show.parent, options.cue, options.listener, tuple(options.sound))
    write_audition(audition, options.out)
    if options.json:
        _print_json(
            {
                "out": str(options.out),
                "seconds": round(audition.seconds, 3),
                "full_scale": audition.full_scale,
                "level_unit": audition.unit,
                "turned_down_db": round(audition.turned_down_db, 3),
                "peak_dbfs": round(audition.peak_dbfs, 2),
                "without_stem": list(audition.without_stem),
            }
        )
    else:
        top = audition.full_scale + audition.turned_down_db
        print(f"{options.out}: {audition.seconds:.1f} s; 0 dBFS in the file is {top:.1f} {audition.unit}.")
        if audition.turned_down_db:
            print(f"Turned down by {audition.turned_down_db:.1f} dB, so that it does not clip.")
        for name in audition.without_stem:
            print(f"No recording for {name}: not in the file.")
    return 0


def _schema(options: argparse.Namespace) -> int:
    _print_json(schema())
    return 0


if __name__ == "__main__":
    sys.exit(main())
