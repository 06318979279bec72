"""`kymaton sim …`: stand-ins for outside devices, each run alone."""

import argparse
import importlib

from kymaton.cli.progress import shown
from kymaton.sim import STAND_INS


def run(options: argparse.Namespace) -> int:
    """Run the stand-in that was asked for with what was said."""
    [stand_in] = [s for s in STAND_INS if s.name == options.stand_in]
    module = importlib.import_module(f"kymaton.sim.{stand_in.name}")
    with shown(stand_in.name) as progress:
        module.run(options.out, {name: getattr(options, name) for name, _, _ in stand_in.words}, progress)
    return 0
