"""`kymaton levels`: what comes to every stage, and the gains to set."""

import argparse

from kymaton.cli.json_output import changes_json, print_json
from kymaton.cli.shows import check_applies, check_names, write_changed
from kymaton.cli.text_output import change_line
from kymaton.core.checks.levels import levels_of
from kymaton.core.checks.report import Report
from kymaton.core.edits.controls import apply
from kymaton.core.levels.gains import propose_gains
from kymaton.core.levels.ladder import Rung, ladder
from kymaton.core.levels.programme import ESTIMATE_LU, programme_lufs
from kymaton.core.units import SILENT
from kymaton.core.words import counted, number
from kymaton.store.showfile import read_show


def levels(options: argparse.Namespace) -> int:
    """The ladder of each sound to each listener that it reaches; or, with --gains, what to set."""
    check_applies(options)
    show = read_show(options.show)
    check_names(show, options)
    report = Report(show)
    if options.gains or options.apply:
        plan = propose_gains(report)
        if options.apply:
            write_changed(apply(show, plan.changes), options)
        if options.json:
            print_json({"changes": changes_json(plan.changes), "remarks": list(plan.remarks)})
            return 0
        for change in plan.changes:
            print(change_line(show, change))
        for remark in plan.remarks:
            print(remark)
        print(f"{counted(len(plan.changes), 'change')}.")
        return 0
    cue = options.cue if options.cue is not None or not show.cues else show.cues[0].id
    told = levels_of(report.cues[cue].view)
    rows = []
    for listener in show.listeners:
        for sound in show.sounds:
            if options.listener in (None, listener.id) and options.sound in (None, sound.id):
                rungs = ladder(told, listener.id, sound.id)
                if rungs:
                    rows.append((listener, sound, rungs))
    programme = {x.id: lufs for x in show.listeners if (lufs := programme_lufs(told, x)) is not None}
    if options.json:
        print_json(
            {
                "cue": cue,
                "ladders": [
                    {"listener": x.id, "sound": s.id, "stages": [_stage(r) for r in rungs]} for x, s, rungs in rows
                ],
                "programme": [
                    {"listener": x, "lufs": round(lufs, 1), "plus_minus_lu": ESTIMATE_LU}
                    for x, lufs in programme.items()
                ],
            }
        )
        return 0
    for listener, sound, rungs in rows:
        print(f"{sound.name} to {listener.name}")
        for rung in rungs:
            print(f"  {_line(rung)}")
    for listener_id, lufs in programme.items():
        print(f"Programme for {show.listener(listener_id).name}: about {number(lufs)} LUFS ± {number(ESTIMATE_LU)}.")
    return 0


def _stage(rung: Rung) -> dict[str, object]:
    return {
        "stage": rung.name,
        "port": rung.place[0],
        "channel": rung.place[1],
        "control": rung.control,
        "unit": rung.unit,
        "typical": round(rung.own.typical, 1),
        "peak": round(rung.own.peak, 1),
        "peak_together": round(rung.together.peak, 1),
        "noise": None if rung.noise_db == SILENT else round(rung.noise_db, 1),
        "takes": rung.clip_db,
    }


def _line(rung: Rung) -> str:
    parts = [f"{rung.name}: {number(rung.own.typical, 1)} {rung.unit}, peaks {number(rung.own.peak, 1)}"]
    room = rung.headroom_db
    if room is not None:
        parts.append(f"{number(room, 1)} dB room" if room >= 0 else f"over by {number(-room, 1)} dB")
    if rung.over_noise_db is not None:
        parts.append(f"{number(rung.over_noise_db)} dB over noise")
    return ", ".join(parts)
