"""`kymaton open`, `demo`, `check`, `hear`, `plan`, `render` and `schema`: shows."""

import argparse
from collections.abc import Sequence

from kymaton.cli import json_output
from kymaton.cli.common import Usage
from kymaton.cli.json_output import print_json
from kymaton.cli.progress import shown
from kymaton.cli.text_output import arrival_line, change_line, finding_line
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.model import Show, ShowError
from kymaton.core.planning.fixes import all_fixes
from kymaton.core.planning.planner import propose
from kymaton.core.planning.send_levels import even_out, hears_by_sends
from kymaton.core.signal.cue_solution import CueSolution
from kymaton.core.words import counted, lowered
from kymaton.language.alternatives import found_in
from kymaton.store.showfile import read_show, write_show
from kymaton.store.showfile import schema as show_schema
from kymaton.store.stems import copy_stems


def known(kind: str, id: str | None, ids: Sequence[str]) -> None:
    if id is not None and id not in ids:
        raise Usage(f"there is no {kind} '{id}'; there are {', '.join(ids) or 'none'}.")


def check_names(show: Show, options: argparse.Namespace) -> None:
    """Raises Usage for an id that the show has not."""
    known("cue", getattr(options, "cue", None), [c.id for c in show.cues])
    known("listener", getattr(options, "listener", None), [x.id for x in show.listeners])
    if isinstance(getattr(options, "sound", None), str):
        known("sound", options.sound, [s.id for s in show.sounds])


def check(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    check_names(show, options)
    report = Report(show, only=options.cue)
    fixes = all_fixes(report)
    ways = list(found_in(report)) if options.cue is None else []
    if options.json:
        content = json_output.check_json(report, fixes)
        content["ways"] = [json_output.way_json(way, found, report) for way, found in ways]
        print_json(content)
    else:
        for finding in report.findings:
            print(finding_line(report, finding, fixes.get(finding.key)))
        known = {f.key for f in report.findings}
        for way, found in ways:
            if isinstance(found, ShowError):
                print(f"caution Other way {way.name}: it cannot be done any more. {found}")
                continue
            proved = all_fixes(found)
            for finding in found.findings:
                if finding.key not in known:
                    print(finding_line(found, finding, proved.get(finding.key), f"Other way {way.name}, "))
        counts = [f"{report.count(s)} {s}{'' if report.count(s) == 1 else 's'}" for s in ("fault", "caution", "note")]
        print(f"{show.title}: {', '.join(counts)}.")
    return 1 if report.count("fault") else 0


def hear(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    check_names(show, options)
    cues: list[str | None] = [options.cue] if options.cue else [c.id for c in show.cues] or [None]
    listeners = [options.listener] if options.listener else [x.id for x in show.listeners]
    views = [CueSolution(show, cue) for cue in cues]
    if options.json:
        found = [json_output.hear_json(v, listeners) for v in views]
        print_json(
            {
                "cue": cues[0] if len(cues) == 1 else None,
                "arrivals": [a for part in found for a in part["arrivals"]],
                "loops": [x for part in found for x in part["loops"]],
                "truncated": any(part["truncated"] for part in found),
            }
        )
        return 0
    for view in views:
        print(view.cue.name if view.cue else "Base state")
        for listener in (show.listener(x) for x in listeners):
            for sound in show.sounds:
                for burst in {b.delay_us: b for b in view.bursts(listener, sound)}.values():
                    spread = view.plus_minus_ms(listener.id, sound.id, burst.delay_us)
                    print(arrival_line(listener, sound, burst, spread))
        if view.hearing.truncated:
            print("A loop goes on for longer than is told here.")
    return 0


def check_applies(options: argparse.Namespace) -> None:
    """Raises Usage where something is to be applied, and no file is named to write."""
    if options.apply and options.out is None:
        raise Usage("--apply needs -o OUT, the file to write.")


def write_changed(show: Show, options: argparse.Namespace) -> None:
    """Write the show where it was asked for, its recordings beside it."""
    write_show(show, options.out)
    copy_stems(show, options.show.parent, options.out.parent)


def plan(options: argparse.Namespace) -> int:
    check_applies(options)
    show = read_show(options.show)
    proposal = propose(Report(show))
    if options.apply:
        write_changed(apply(show, proposal.changes), options)
    if options.json:
        print_json(json_output.plan_json(proposal))
        return 0
    for change in proposal.changes:
        print(change_line(show, change))
    for problem in proposal.impossible:
        where = show.cue(problem.cue).name if problem.cue else "All cues"
        print(f"Not possible, {where}: {problem.sentence}.")
        for way in problem.ways:
            print(f"  A way out: {lowered(way.sentence)}.")
    for remark in proposal.remarks:
        print(remark)
    vanish = counted(len(proposal.cured), "finding vanishes", "findings vanish")
    print(f"{counted(len(proposal.changes), 'change')}, {vanish}.")
    return 0


def even(options: argparse.Namespace) -> int:
    """Send levels in a cue (the first one unless told), for one listener or for all who hear by sends."""
    check_applies(options)
    if not 0 <= options.music_under <= 40:
        raise Usage("--music-under is 0 to 40 dB.")
    show = read_show(options.show)
    check_names(show, options)
    cue = options.cue if options.cue is not None or not show.cues else show.cues[0].id
    report = Report(show)
    listeners = [options.listener] if options.listener is not None else hears_by_sends(report, cue)
    found = even_out(report, cue, listeners, options.music_under)
    if options.apply:
        write_changed(apply(show, found.changes), options)
    if options.json:
        print_json(json_output.even_json(found))
        return 0
    for change in found.changes:
        print(change_line(show, change))
    for remark in found.remarks:
        print(remark)
    print(f"{counted(len(found.changes), 'change')}.")
    return 0


def off_air(options: argparse.Namespace) -> int:
    """A cue in which somebody talks off air, with the settings that it takes."""
    from kymaton.core.planning.situations import countdown, green_room, talkback, talkers

    show = read_show(options.show)
    check_names(show, options)
    for listener in options.to:
        known("listener", listener, [x.id for x in show.listeners])
    if options.what == "green-room":
        made = green_room(show)
    elif options.what == "countdown":
        if len(options.to) != 2:
            raise Usage("a countdown needs two: --to HOST --to GUEST.")
        made = countdown(show, *options.to)
    else:
        voice = next((s.id for s in talkers(show)), None)
        if voice is None or not options.to:
            raise Usage("talkback needs a sound of that kind in the show, and --to LISTENER.")
        made = talkback(show, options.cue, voice, options.to)
    write_changed(made.show, options)
    for change in made.changes:
        print(change_line(made.show, change))
    for problem in made.problems:
        print(f"Not possible here: {problem}.")
    print(f"{made.sentence}.")
    return 0


def render(options: argparse.Namespace) -> int:
    from kymaton.media.audition import write_audition  # late: sound takes a while to load
    from kymaton.media.jobs import make_audition

    show = read_show(options.show)
    check_names(show, options)
    for sound in options.sound:
        known("sound", sound, [s.id for s in show.sounds])
    with shown("render") as progress:
        audition = make_audition(
            show, options.show.parent, options.cue, options.listener, tuple(options.sound), progress=progress
        )
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


def schema(options: argparse.Namespace) -> int:
    print_json(show_schema())
    return 0
