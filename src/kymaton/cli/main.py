"""`kymaton`: the window, and the same computations on files."""

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NoReturn

from kymaton import __version__
from kymaton.cli import films, output, simulations
from kymaton.cli.common import Usage, print_json
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.errors import FileError, RenderError
from kymaton.core.model import Listener, Show, Sound
from kymaton.core.planning.fixes import Fix, all_fixes, parts_of
from kymaton.core.planning.mix_minus import propose
from kymaton.core.signal.cue_solution import Burst, CueSolution
from kymaton.core.words import counted, ms_within, number
from kymaton.store.demo import demo_show
from kymaton.store.showfile import read_show, schema, write_show
from kymaton.store.stems import copy_stems


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command. 0: done, no faults; 1: the show has faults; 2: it could not be done, one line on stderr."""
    try:
        options = parser().parse_args(arguments)
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


def parser() -> argparse.ArgumentParser:
    """All commands and what they take."""
    made = _Parser(prog="kymaton", description="What every listener of a live stream will really hear.")
    made.add_argument("--version", action="version", version=f"Kymaton {__version__}")
    made.set_defaults(run=_window, show=None)
    commands = made.add_subparsers(metavar="COMMAND")

    def command(name: str, run: object, text: str, show: bool = True, needed: bool = True) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        if show:
            many = None if needed else "?"
            sub.add_argument("show", type=Path, metavar="SHOW", nargs=many, help="a .kymaton file")
        sub.set_defaults(run=run)
        return sub

    command("open", _window, "open the window on a show, or on the start page", needed=False)
    command("demo", _demo, "open the window on the demo show", show=False)
    check = command("check", _check, "findings; exit 1 when there are faults")
    hear = command("hear", _hear, "arrivals at listeners")
    plan = command("plan", _plan, "mix-minus proposal")
    render = command("render", _render, "write what a listener hears in a cue")
    command("schema", _schema, "JSON Schema of the show file", show=False)
    films.add_parsers(commands)
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
    return made


def _window(options: argparse.Namespace) -> int:
    from kymaton.app.run import run  # late: the commands need no window

    return int(run(options.show))


def _demo(options: argparse.Namespace) -> int:
    from kymaton.app.run import run

    return int(run(demo_show()))


def _known(kind: str, id: str | None, ids: Sequence[str]) -> None:
    if id is not None and id not in ids:
        raise Usage(f"there is no {kind} '{id}'; there are {', '.join(ids) or 'none'}.")


def _told(show: Show, fix: Fix) -> str:
    """A fix in a line: `Close both sends: Close desk 9 to aux 1; Close desk 10 to aux 1`."""
    parts = "; ".join(parts_of(show, fix))
    return f"{fix.title}: {parts}" if parts else fix.title


def _names(show: Show, options: argparse.Namespace) -> None:
    _known("cue", getattr(options, "cue", None), [c.id for c in show.cues])
    _known("listener", getattr(options, "listener", None), [x.id for x in show.listeners])


def _check(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    _names(show, options)
    report = Report(show, only=options.cue)
    fixes = all_fixes(report)
    if options.json:
        print_json(output.check_json(report, fixes))
    else:
        for finding in report.findings:
            cue = show.cue(finding.cue).name if finding.cue else "Rig" if finding.step == "path" else "Base state"
            fix = fixes.get(finding.key)
            print(
                f"{finding.severity:8}{cue}: {finding.sentence}. {finding.reason}"
                + (f" Fix: {_told(show, fix)}." if fix else f" {finding.remedy}" if finding.remedy else "")
            )
        counts = [f"{report.count(s)} {s}{'' if report.count(s) == 1 else 's'}" for s in ("fault", "caution", "note")]
        print(f"{show.title}: {', '.join(counts)}.")
    return 1 if report.count("fault") else 0


def _hear(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    _names(show, options)
    cues: list[str | None] = [options.cue] if options.cue else [c.id for c in show.cues] or [None]
    listeners = [options.listener] if options.listener else [x.id for x in show.listeners]
    views = [CueSolution(show, cue) for cue in cues]
    if options.json:
        found = [output.hear_json(v, listeners) for v in views]
        print_json(
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
    delay = ms_within(burst.delay_ms, spread_ms)
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
        print_json(output.plan_json(proposal))
        return 0
    for change in proposal.changes:
        print(output.change_line(show, change))
    for problem in proposal.impossible:
        where = show.cue(problem.cue).name if problem.cue else "All cues"
        print(f"Not possible, {where}: {problem.sentence}.")
    vanish = counted(len(proposal.cured), "finding vanishes", "findings vanish")
    print(f"{counted(len(proposal.changes), 'change')}, {vanish}.")
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
        print_json(
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
    print_json(schema())
    return 0


if __name__ == "__main__":
    sys.exit(main())
