"""``python -m tests.hostile FOLDER STEP KIND...``: try every STEPth file of some kinds, as JSON.

All of them: ``scripts/python -m tests.hostile /tmp/hostile 1``.
"""

from __future__ import annotations

import json
import sys
import warnings
from pathlib import Path

from tests.hostile.kinds import KINDS
from tests.hostile.trial import attempt, ready


def tried(folder: Path, kind: str, step: int) -> dict[str, object]:
    """How many files of a kind were tried, and what was wrong with which."""
    place, wrong, count = folder / kind, list[str](), 0
    place.mkdir(parents=True)
    for number, case in enumerate(KINDS[kind](place)):
        if number % step:
            continue
        found = attempt(case.arguments, folder / "home")
        count += 1
        if found.wrong:
            wrong.append(f"{case.name}: {found.wrong}")
        elif case.expects not in found.said:
            wrong.append(f"{case.name}: the others are lost: {found.said[-200:]}")
    return {"tried": count, "wrong": wrong}


def main() -> None:
    warnings.filterwarnings("ignore", "Duplicate name")
    ready()
    folder = Path(sys.argv[1])
    step, kinds = int(sys.argv[2]), sys.argv[3:] or list(KINDS)
    json.dump({kind: tried(folder, kind, step) for kind in kinds}, sys.stdout, indent=1)


if __name__ == "__main__":
    main()
