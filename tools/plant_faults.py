"""Plants small faults one at a time and counts which of them a test notices.

Not part of ``./test``: one fault takes seconds to minutes. In an environment of its own (see
``requirements-faults.lock``), from a clone that nobody else works in:

    python tools/plant_faults.py record            which tests run which lines, once (half an hour)
    python tools/plant_faults.py plant core --count 100 --seed 1

Each fault is one change by one operator of Cosmic Ray on one line that is drawn at random (with
the seed). The tests of its folder are run and then those that ran this line, the quickest first,
until one fails. A fault on a line that no test runs counts as not noticed.
"""

from __future__ import annotations

import argparse
import difflib
import json
import os
import random
import subprocess
import sys
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import coverage
from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator

ROOT = Path(__file__).resolve().parent.parent
PACKAGE = ROOT / "src" / "fox_hand"
RECORD = ROOT / ".faults"
# one of each kind; the others of Cosmic Ray turn sums into shifts, which every test notices
OPERATORS = tuple(
    f"core/{name}"
    for name in (
        *("AddNot", "NumberReplacer", "ZeroIterationForLoop", "ReplaceTrueWithFalse"),
        *("ReplaceFalseWithTrue", "ReplaceAndWithOr", "ReplaceOrWithAnd"),
        *(
            "ReplaceBreakWithContinue",
            "ReplaceContinueWithBreak",
            "ReplaceUnaryOperator_Delete_Not",
        ),
        *("ReplaceUnaryOperator_Delete_USub", "ReplaceUnaryOperator_Delete_Invert"),
        *("ReplaceBinaryOperator_Add_Sub", "ReplaceBinaryOperator_Sub_Add"),
        *("ReplaceBinaryOperator_Mul_Div", "ReplaceBinaryOperator_Div_Mul"),
        *("ReplaceBinaryOperator_Mod_Add", "ReplaceBinaryOperator_FloorDiv_Div"),
        *("ReplaceBinaryOperator_BitOr_BitAnd", "ReplaceBinaryOperator_BitAnd_BitOr"),
        *("ReplaceComparisonOperator_Eq_NotEq", "ReplaceComparisonOperator_NotEq_Eq"),
        *("ReplaceComparisonOperator_Lt_LtE", "ReplaceComparisonOperator_Lt_GtE"),
        *("ReplaceComparisonOperator_LtE_Lt", "ReplaceComparisonOperator_LtE_Gt"),
        *("ReplaceComparisonOperator_Gt_GtE", "ReplaceComparisonOperator_Gt_LtE"),
        *("ReplaceComparisonOperator_GtE_Gt", "ReplaceComparisonOperator_GtE_Lt"),
        *("ReplaceComparisonOperator_Is_IsNot", "ReplaceComparisonOperator_IsNot_Is"),
    )
)
LONGEST = 240.0  # seconds of tests for one fault
MOST_TESTS = 400


@dataclass(frozen=True, slots=True)
class Fault:
    """One operator at one of the places where it applies."""

    path: Path
    operator: str
    occurrence: int
    line: int


@dataclass(frozen=True, slots=True)
class Told:
    """What became of a fault."""

    fault: Fault
    word: str  # noticed, not noticed, no test, too long
    change: str


def record() -> None:
    """Run all tests, keeping which of them ran which line and how long they took."""
    RECORD.mkdir(exist_ok=True)
    settings = RECORD / "coveragerc"
    settings.write_text(
        f"[run]\ndata_file = {RECORD / 'lines'}\ndynamic_context = test_function\n"
        f"source = {PACKAGE}\nconcurrency = thread\n"
    )
    run = [sys.executable, "-m", "coverage", "run", f"--rcfile={settings}", "-m", "pytest", "-q"]
    subprocess.run(
        [*run, f"--junitxml={RECORD / 'times.xml'}"], cwd=ROOT, env=_environment(), check=False
    )


def _environment() -> dict[str, str]:
    """Programs that tests start find the package, too."""
    found = [str(ROOT / "src"), *filter(None, [os.environ.get("PYTHONPATH")])]
    return {
        **os.environ,
        "PYTHONPATH": os.pathsep.join(found),
        "PYTHONDONTWRITEBYTECODE": "1",
    }


class Record:
    """Which tests run a line, and how long each takes."""

    def __init__(self) -> None:
        self._data = coverage.CoverageData(str(RECORD / "lines"))
        self._data.read()
        self._seconds: dict[str, float] = {}
        self._files: dict[str, str] = {}
        failed: set[str] = set()
        for case in ET.parse(RECORD / "times.xml").iter("testcase"):
            module, name = case.get("classname", ""), case.get("name", "").partition("[")[0]
            key = f"{module}.{name}"
            self._seconds[key] = self._seconds.get(key, 0.0) + float(case.get("time", 0))
            self._files[key] = f"{module.replace('.', '/')}.py::{name}"
            if case.find("failure") is not None or case.find("error") is not None:
                failed.add(key)
        for key in failed:  # it would notice everything
            del self._files[key]

    def tests(self, path: Path, line: int) -> list[str]:
        """The tests of its folder, then others that ran a line, the quickest first, as pytest
        names them.

        A line that ran while a module was imported, in a thread or from within the toolkit is
        recorded without its test: those of its file are taken then, and those named after it.
        """
        by_line = self._data.contexts_by_lineno(str(path))
        keys = {key for key in by_line.get(line, []) if key in self._files}
        if not keys and line in by_line:
            words = set(path.stem.split("_"))
            keys = {key for found in by_line.values() for key in found if key in self._files}
            keys |= {key for key in self._files if words & set(_module(key).split("_"))}
        inside = path.relative_to(PACKAGE).parent.as_posix()
        own = {key for key, name in self._files.items() if name.startswith(f"tests/{inside}/")}
        return [self._files[key] for key in (*self._within(own), *self._within(keys - own))]

    def _within(self, keys: set[str]) -> list[str]:
        """As many as end before it counts as hanging, the quickest first."""
        chosen, seconds = [], 0.0
        for key in sorted(keys, key=lambda k: (self._seconds[k], k))[:MOST_TESTS]:
            seconds += self._seconds[key]
            if seconds > LONGEST / 2:
                break
            chosen.append(key)
        return chosen

    def lines(self, path: Path) -> set[int]:
        """The lines of a file that ran within any test."""
        return {n for n, keys in self._data.contexts_by_lineno(str(path)).items() if any(keys)}


def _module(key: str) -> str:
    """The file of a test: ``tests.core.test_pose.test_it`` gives ``test_pose``."""
    return key.rpartition(".")[0].rpartition(".")[2]


def faults_of(path: Path) -> Iterator[Fault]:
    """All faults that can be planted in a file, inside functions only."""
    tree = get_ast(path.read_text())
    inside = _lines_of_functions(path)
    text = path.read_text().splitlines()
    for name in OPERATORS:
        operator = get_operator(name)()
        places = [at for node in ast_nodes(tree) for at in operator.mutation_positions(node)]
        for number, (start, _stop) in enumerate(places):
            # that lengths are as they always are is a guard, whose absence changes nothing
            guard = text[start[0] - 1][: start[1]].endswith("strict=")
            if start[0] in inside and not guard:
                yield Fault(path, name, number, start[0])


def _lines_of_functions(path: Path) -> set[int]:
    import ast  # noqa: PLC0415 - the name would hide the other tree's

    found: set[int] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and node.body:
            spoken = ast.get_docstring(node) is not None
            body = node.body[1:] if spoken else node.body
            if body and all(_says_nothing(statement) for statement in body):
                continue  # of a protocol: what is asked of others, never run
            for statement in body:
                found |= set(range(statement.lineno, (statement.end_lineno or 0) + 1))
    return found


def _says_nothing(statement: object) -> bool:
    import ast  # noqa: PLC0415 - the name would hide the other tree's

    value = getattr(statement, "value", None)
    return isinstance(statement, ast.Expr) and getattr(value, "value", None) is ...


def _sample(areas: list[str], count: int, seed: int) -> list[Fault]:
    """Lines drawn at random, each alike likely, then one fault on each."""
    by_line: dict[tuple[Path, int], list[Fault]] = {}
    for area in areas:
        folder = PACKAGE / area
        files = sorted(folder.rglob("*.py")) if folder.is_dir() else [folder]
        for fault in (fault for path in files for fault in faults_of(path)):
            by_line.setdefault((fault.path, fault.line), []).append(fault)
    chance = random.Random(seed)
    lines = chance.sample(sorted(by_line), min(count, len(by_line)))
    print(f"{sum(map(len, by_line.values()))} faults on {len(by_line)} lines; {len(lines)} drawn")
    return [chance.choice(by_line[line]) for line in lines]


def planted(fault: Fault, kept: Record) -> Told:
    """Plant a fault, run the tests of its line, take it out again."""
    before = fault.path.read_text()
    after = mutate_code(before, get_operator(fault.operator)(), fault.occurrence)
    change = _change(before, after or before)
    tests = kept.tests(fault.path, fault.line)
    if not tests:
        return Told(fault, "no test", change)
    try:
        fault.path.write_text(after or before)
        return Told(fault, _outcome(tests), change)
    finally:
        fault.path.write_text(before)


def _outcome(tests: list[str]) -> str:
    run = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *tests]
    try:
        done = subprocess.run(
            run, cwd=ROOT, env=_environment(), timeout=LONGEST, capture_output=True, check=False
        )
    except subprocess.TimeoutExpired:
        return "too long"
    # 1: a test failed; 2 and more: the module cannot even be imported; 0: nobody saw it
    return "not noticed" if done.returncode == 0 else "noticed"


def _change(before: str, after: str) -> str:
    lines = difflib.unified_diff(before.splitlines(), after.splitlines(), n=0, lineterm="")
    return " => ".join(line[1:].strip() for line in list(lines)[3:])


def plant(areas: list[str], count: int, seed: int, out: Path) -> None:
    """Plant a sample of faults and write down what became of each, one by one.

    A run that was cut off goes on where it stopped when it is asked for the same again.
    """
    kept = Record()
    asked = {"areas": areas, "count": count, "seed": seed}
    rows = _told_before(out, asked)
    for number, fault in enumerate(_sample(areas, count, seed), 1):
        if number <= len(rows):
            continue
        one = planted(fault, kept)
        where = f"{fault.path.relative_to(PACKAGE)}:{fault.line}"
        print(f"{number:4} {one.word:12} {where}  {one.change}", flush=True)
        rows.append(
            {"file": str(fault.path.relative_to(PACKAGE)), "line": fault.line}
            | {"operator": fault.operator, "word": one.word, "change": one.change}
        )
        out.write_text(json.dumps({"asked": asked, "told": rows}, indent=1))
    seen = sum(row["word"] in ("noticed", "too long") for row in rows)
    print(f"{seen} of {len(rows)} noticed: {100 * seen / max(1, len(rows)):.0f} %")


def _told_before(out: Path, asked: dict[str, object]) -> list[dict[str, object]]:
    if not out.exists():
        return []
    before = json.loads(out.read_text())
    return before["told"] if before["asked"] == asked else []


def main() -> None:
    """Read the command line."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n", 1)[0] if __doc__ else "")
    deeds = parser.add_subparsers(dest="deed", required=True)
    deeds.add_parser("record")
    planting = deeds.add_parser("plant")
    planting.add_argument("areas", nargs="+", help="folders or modules below src/fox_hand")
    planting.add_argument("--count", type=int, default=100)
    planting.add_argument("--seed", type=int, default=1)
    planting.add_argument("--out", type=Path, default=RECORD / "told.json")
    asked = parser.parse_args()
    if asked.deed == "record":
        record()
    else:
        plant(asked.areas, asked.count, asked.seed, asked.out)


if __name__ == "__main__":
    main()
