"""`kymaton private`: by how few presses something private could get out, and what makes that impossible."""

import argparse

from kymaton.cli.json_output import print_json
from kymaton.core.checks.report import Report
from kymaton.core.planning.privacy import Proof, between_text, mistake_text, prove
from kymaton.core.words import joined, named, sentence
from kymaton.store.showfile import read_show


def private(options: argparse.Namespace) -> int:
    show = read_show(options.show)
    report = Report(show)
    proof = prove(report)
    if options.json:
        print_json(_json(proof))
    else:
        cues = {c.id: c.name for c in show.cues}
        for mistake in proof.mistakes:
            where = cues.get(mistake.cue or "", "All cues")
            many = {0: "out", 1: "1 press"}.get(len(mistake.presses), f"{len(mistake.presses)} presses")
            print(f"{many:10}{where}: {mistake_text(report.cues[mistake.cue].view, mistake)}.")
        for moment in proof.between:
            print(f"{'between':10}{between_text(show, moment)}.")
        for sound, leads in proof.breaks.items():
            names = joined(f"{show.port_label(c.source)} from {show.port_label(c.target)}" for c in leads)
            print(f"{'break':10}{sentence(named(show.sound(sound)).do('be'))} safe with {names} unplugged.")
        if not proof.mistakes and not proof.between:
            print("Nothing private can get out by one or two presses, nor between two cues.")
    return 1 if any(not m.presses for m in proof.mistakes) else 0


def _json(proof: Proof) -> dict[str, object]:
    return {
        "mistakes": [
            {"cue": m.cue, "sound": m.sound, "listeners": list(m.listeners), "presses": list(m.presses)}
            for m in proof.mistakes
        ],
        "between": [{"cue": b.cue, "next": b.after, "sound": b.sound, "listener": b.listener} for b in proof.between],
        "breaks": {sound: [c.id for c in leads] for sound, leads in proof.breaks.items()},
    }
