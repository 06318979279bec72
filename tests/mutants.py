"""Small deliberate changes in one module, and whether its tests notice them: `make mutants FILE=src/kymaton/…`.

Each change is one operator, limit, constant or choice of function turned into a neighbour, in a copy of the sources.
What no test notices is printed with its line: the tests are silent there, or the change means nothing.
"""

import argparse
import ast
import copy
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LONGEST_S = 180
COMPARED = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
TURNED = {ast.Lt: ast.Gt, ast.LtE: ast.GtE, ast.Gt: ast.Lt, ast.GtE: ast.LtE}
COMPUTED = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.BitAnd: ast.BitOr,
    ast.BitOr: ast.BitAnd,
}  # fmt: skip
FLAGS = ("strict", "frozen", "dict", "copy")  # guards and speed: no figure changes with them
NAMED = {
    "min": "max", "max": "min", "floor": "ceil", "ceil": "floor", "any": "all", "all": "any", "argmin": "argmax",
    "argmax": "argmin", "median": "max", "cos": "sin", "log10": "log2", "minimum": "maximum", "maximum": "minimum",
}  # fmt: skip


def changes(tree: ast.Module) -> Iterator[tuple[int, str, ast.Module]]:
    """Every change of a module: its line, what it is, and the module with it."""
    places = [n for n in ast.walk(tree) if not isinstance(n, ast.Module)]
    flags = {id(k.value) for n in places for k in getattr(n, "keywords", ()) if k.arg in FLAGS}
    typed = flags | {id(inner) for n in places for hint in _hints(n) for inner in ast.walk(hint)}
    for number, node in enumerate(places):
        if id(node) in typed:
            continue
        for said, mend in _ways(node):
            other = copy.deepcopy(tree)
            mend([n for n in ast.walk(other) if not isinstance(n, ast.Module)][number])
            yield getattr(node, "lineno", 0), said, other


def _hints(node: ast.AST) -> list[ast.AST]:
    found = [getattr(node, name, None) for name in ("annotation", "returns")]
    found += [node.msg] if isinstance(node, ast.Assert) else []
    return [hint for hint in found if hint is not None]


def _ways(node: ast.AST):  # type: ignore[no-untyped-def]
    """The neighbours of one place."""
    if isinstance(node, ast.Compare) and len(node.ops) == 1:
        for table in (COMPARED, TURNED):
            new = table.get(type(node.ops[0]))
            if new is not None:
                yield f"{type(node.ops[0]).__name__} → {new.__name__}", lambda n, new=new: n.ops.__setitem__(0, new())
    elif isinstance(node, ast.BinOp) and type(node.op) in COMPUTED:
        new = COMPUTED[type(node.op)]
        yield f"{type(node.op).__name__} → {new.__name__}", lambda n: setattr(n, "op", new())
    elif isinstance(node, ast.BoolOp):
        new = ast.Or if isinstance(node.op, ast.And) else ast.And
        yield f"{type(node.op).__name__} → {new.__name__}", lambda n: setattr(n, "op", new())
    elif isinstance(node, ast.Constant) and type(node.value) in (int, float):
        value = node.value + 1 if isinstance(node.value, int) else node.value * 1.6 + (node.value == 0)
        yield f"{node.value} → {value}", lambda n: setattr(n, "value", value)
    elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
        yield f"{node.value} → {not node.value}", lambda n: setattr(n, "value", not node.value)
    elif isinstance(node, ast.Call):
        name = node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")
        if name in NAMED:
            where = "id" if isinstance(node.func, ast.Name) else "attr"
            yield f"{name} → {NAMED[name]}", lambda n: setattr(n.func, where, NAMED[name])
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
        yield "not taken away", lambda n: setattr(n, "op", ast.UAdd()) or setattr(n, "operand", _truth(n.operand))


def _truth(operand: ast.expr) -> ast.expr:
    return ast.Call(ast.Name("bool", ast.Load()), [operand], [])


def noticed(source: Path, text: str, tests: list[str]) -> bool:
    """Whether a test fails, or never ends, with this text in place of a module."""
    with tempfile.TemporaryDirectory() as folder:
        shutil.copytree(ROOT / "src", Path(folder) / "src", ignore=shutil.ignore_patterns("__pycache__"))
        (Path(folder) / source.relative_to(ROOT)).write_text(text)
        environment = {**os.environ, "PYTHONPATH": str(Path(folder) / "src"), "QT_QPA_PLATFORM": "offscreen"}
        command = [sys.executable, "-m", "pytest", "-x", "-n0", "-p", "no:cacheprovider", "-p", "no:randomly", *tests]
        try:
            done = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, timeout=LONGEST_S)
        except subprocess.TimeoutExpired:
            return True
        return done.returncode != 0


def main() -> int:
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("file", type=Path)
    words.add_argument("tests", nargs="*", help="what should notice (default: the test file that mirrors the module)")
    words.add_argument("--most", type=int, default=60, help="changes that are tried, drawn by lot (default 60)")
    words.add_argument("--seed", type=int, default=1)
    options = words.parse_args()
    source = options.file.resolve()
    inside = source.relative_to(ROOT / "src" / "kymaton")
    tests = options.tests or [str(ROOT / "tests" / inside.parent / f"test_{inside.name}")]
    every = list(changes(ast.parse(source.read_text("utf-8"))))
    tried = sorted(random.Random(options.seed).sample(every, min(options.most, len(every))), key=lambda c: c[0])
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        found = list(pool.map(lambda c: noticed(source, ast.unparse(c[2]), tests), tried))
    lines = source.read_text("utf-8").splitlines()
    for (line, said, _), was in zip(tried, found, strict=True):
        if not was:
            print(f"not noticed, line {line}, {said}: {lines[line - 1].strip()[:100]}")
    print(f"{inside}: {sum(found)} of {len(found)} changes noticed ({len(every)} are possible)")
    return 0


if __name__ == "__main__":
    sys.exit(main())
