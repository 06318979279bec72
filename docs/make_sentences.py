"""Writes docs/sentences.md: every sentence that the program can say, to be read aloud.

What is found wrong is said by code from names and figures, so it is shown as it is said of real shows: the demo, the
starters, and the small shows of the tests that have each kind once. All else stands in the code as it is said; there
`{…}` is what is put in.
"""

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from kymaton.core.checks import KINDS, RIG_KINDS, Finding
from kymaton.core.checks.report import Report
from kymaton.language.starters import STARTERS
from kymaton.store.showfile import read_show

PAGE = ROOT / "docs" / "sentences.md"
EXAMPLES = 4
TRIED = ("tests/core/checks/test_findings.py", "tests/core/checks/test_levels.py")
PATCH = re.compile(  # lines that rigs are built with, types, patterns
    r"(add|set) [a-z]|.* > |\S*\[|.*: [a-z]+, [a-z]+$|.*\(.?\.\+|.*\(\\w"
)
SKIPPED = ("theme/theme.py", "theme/marks.py")  # style sheets and drawings


class Listening:
    """Takes down what is found while the tests of the findings run."""

    def __init__(self) -> None:
        self.findings: list[Finding] = []
        self.headings: list[tuple[str, str]] = []

    def take(self, report: Report) -> None:
        self.findings += report.findings
        for card in (*report.rig_cards, *(c for cue in report.cues.values() for c in cue.cards)):
            if len(card.findings) > 1:
                self.headings.append((card.first.id, card.sentence))

    def run(self) -> None:
        for show in (read_show(ROOT / "demo" / "harbour-almanac.kymaton"), *(s.show() for s in STARTERS)):
            self.take(Report(show))
        made = Report.__init__

        def listened(report: Report, *arguments: object, **named: object) -> None:
            made(report, *arguments, **named)  # type: ignore[arg-type]
            self.take(report)

        Report.__init__ = listened  # type: ignore[method-assign]
        from tests.core.checks.test_wiring import CASES

        for show, _ in CASES.values():
            Report(show)
        failed = pytest.main(
            [
                "-q",
                "-p",
                "no:xdist",
                "-p",
                "no:randomly",
                "-o",
                "addopts=",
                "--no-header",
                "-q",
                *(str(ROOT / tried) for tried in TRIED),
            ]
        )
        Report.__init__ = made  # type: ignore[method-assign]
        if failed:
            raise SystemExit("the tests of the findings fail: mend them first")


def shape(text: str) -> str:
    """A sentence without its figures, so that the same one is not shown twice."""
    return re.sub(r"[\d.]+", "0", text)


def examples(listening: Listening, id: str) -> Iterator[str]:
    """How a kind is said: of several at once first, then one by one, each shape once."""
    seen: set[str] = set()
    for kind, heading in listening.headings:
        if kind == id and shape(heading) not in seen and len(seen) < EXAMPLES:
            seen.add(shape(heading))
            yield f"- {heading}."
    seen.clear()
    for finding in listening.findings:
        reason = " ".join(filter(None, (finding.reason, finding.remedy)))
        key = shape(reason)
        if finding.id == id and key not in seen and len(seen) < EXAMPLES:
            seen.add(key)
            yield f"- {finding.severity}: **{finding.sentence}.** {reason}"


def spoken(path: Path) -> Iterator[str]:
    """The strings of a module that a person may read, `{…}` for what is put in."""
    tree = ast.parse(path.read_text("utf-8"))
    silent: set[int] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef) and ast.get_docstring(node):
            silent.add(id(node.body[0].value))  # type: ignore[attr-defined]
        if isinstance(node, ast.Call) and _name(node.func) in ("setStyleSheet", "compile", "match", "ValueError"):
            silent |= {id(inner) for inner in ast.walk(node)}
        if isinstance(node, ast.JoinedStr):
            silent |= {id(part) for part in node.values}
    for node in ast.walk(tree):
        if id(node) not in silent and isinstance(node, ast.JoinedStr | ast.Constant):
            text = _text(node)
            words = re.findall(r"[a-z]{2,}", re.sub(r"\{.*?\}", "", text))
            if re.search(r"[a-z]{2,},? [a-z0-9{]", text) and len(words) > 1 and not PATCH.match(text):
                yield " ".join(text.split())


def _name(node: ast.expr) -> str:
    return node.attr if isinstance(node, ast.Attribute) else node.id if isinstance(node, ast.Name) else ""


def _text(node: ast.JoinedStr | ast.Constant) -> str:
    if isinstance(node, ast.Constant):
        return node.value if isinstance(node.value, str) else ""
    return "".join(
        p.value if isinstance(p, ast.Constant) else f"{{{ast.unparse(p.value)}}}"  # type: ignore[attr-defined]
        for p in node.values
    )


def page() -> str:
    listening = Listening()
    listening.run()
    lines = [
        "# Every sentence that Kymaton can say",
        "",
        "Written by `make pages`. Read it aloud: what stumbles is mended in `core/words.py`, or where it is said.",
        "",
        "## What is found",
        "",
    ]
    for id in (*sorted(KINDS, key=lambda id: KINDS[id].rank), *RIG_KINDS):
        said = list(examples(listening, id))
        if not said:
            raise SystemExit(f"no show says {id}")
        lines += [f"### {id}", "", *said, ""]
    lines += ["## What else is said", ""]
    for path in sorted((ROOT / "src" / "kymaton").rglob("*.py")):
        name = path.relative_to(ROOT / "src").as_posix()
        said = list(dict.fromkeys(spoken(path))) if not name.endswith(SKIPPED) and "/checks/" not in name else []
        if said:
            lines += [f"### {name}", "", *(f"- {s}" for s in said), ""]
    return "\n".join(lines)


if __name__ == "__main__":
    if sys.argv[1:] == ["--check"]:
        sys.exit(0 if PAGE.read_text("utf-8") == page() else f"{PAGE.name} is not as the program is: run make pages")
    PAGE.write_text(page(), "utf-8")
