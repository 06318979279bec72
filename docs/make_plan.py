"""Writes docs/plan.md: what is expected of a show until somebody decides, from the tables that the program uses."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "plan.md"

from kymaton.core.model import Want
from kymaton.core.model.policy import GROUP_NAMES, POLICIES

SAID = {Want.MUST: "must", Want.MUST_NOT: "not", Want.ANY: ""}
HEAD = """# The plan by default

Whoever types who takes part has a plan at once: what everyone would expect, in italics until somebody decides. In
*Brief*, Space on a cell decides (must, must not, may), Delete goes back to the default. Four sets are there; a show
says which one holds. An empty cell may be heard or not. Written by `make pages` from `core/model/policy.py`.
"""
FOOT = """
## How far a default goes

- A line of the plan goes before any default. Where it speaks of some cues, no default asks for that sound in the
  others; a default that wants silence still holds there.
- In a cue *before air* (its page in *Brief* says so, or its note) audience and recorders hear none of the talk, and
  nothing is asked for by default.
- A private sound never reaches audience or recorders.
- What is not met is a fault for audience, recorders and guests, and where a guest's voice is missing; elsewhere, and
  where a room hears its own microphones unasked, a caution. What was decided always counts as a fault.
- With several cues, a sound that nobody who must hear it hears in a cue is not played there: nothing is missed. One
  that is heard in no cue is missed in all.
- While nothing is connected, nothing is missed. A listener whom no lead reaches, or a sound that goes nowhere, is told
  once, in *Path*.
- The room is held against what its loudspeakers bring; what comes through the air alone is nobody's leak.
"""


def page() -> str:
    lines = [HEAD]
    for policy in POLICIES.values():
        lines += [f"## {policy.name.capitalize()}", "", policy.about, ""]
        lines.append("| hears | " + " | ".join(GROUP_NAMES.values()) + " |")
        lines.append("|---" * (len(GROUP_NAMES) + 1) + "|")
        for listener, row in policy.table.items():
            cells = (SAID[row.get(group, Want.ANY)] for group in GROUP_NAMES)
            lines.append(f"| {listener} | " + " | ".join(cells) + " |")
        lines.append("")
    return "\n".join(lines).rstrip() + "\n" + FOOT


if __name__ == "__main__":
    if sys.argv[1:] == ["--check"]:
        sys.exit(0 if PAGE.read_text("utf-8") == page() else f"{PAGE.name} is not as the program is: run make pages")
    PAGE.write_text(page(), "utf-8")
