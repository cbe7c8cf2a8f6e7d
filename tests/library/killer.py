"""Works on a library in children that are killed in the middle; see ``test_faults.py``.

``python -m tests.library.killer FOLDER KILLS SEED`` prints one JSON object with counts.
"""

from __future__ import annotations

import json
import os
import random
import signal
import sys
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from fox_hand.core.pose import Held, Pose
from fox_hand.library import moves
from fox_hand.library.card import Card
from fox_hand.library.container import read_card
from fox_hand.library.moves import current
from fox_hand.library.schema import SUFFIX
from fox_hand.library.store import Library

PICTURE = b"\x89PNG" + bytes(range(256)) * 120
BASE = 8


def card(name: str, note: str = "") -> Card:
    held = {f"control_{i}": Held(turn=(0.0, 0.0, 0.0, 1.0), move=(i, 0, 0)) for i in range(40)}
    return Card(name, Pose(held), note=note)


def files(library: Library, hidden: bool = True) -> list[Path]:
    """Card files in sheets, and with ``hidden`` those in the library's own keep."""
    found = library.folder.rglob(f"*{SUFFIX}")
    return [p for p in found if hidden or ".foxhand" not in p.parts]


def deeds(library: Library, path: Path, rng: random.Random) -> list[Callable[[], object]]:
    """Everything that is done to a card."""

    def tagged() -> object:
        return moves.reword(library, current(library, path), lambda c: replace(c, tags=("x",)))

    def replaced() -> object:
        new = card("base", note="again" * 50)
        return moves.store_over(library, current(library, path), new, PICTURE)

    return [
        tagged,
        replaced,
        lambda: moves.rename(library, path, f"card {rng.randrange(99)}"),
        lambda: moves.move(library, path, rng.choice("ABC")),
        lambda: moves.take_out(library, path).undo(),
        lambda: library.add(card(f"new {rng.randrange(99)}"), PICTURE, "A"),
    ]


def work(library: Library, rng: random.Random) -> None:
    """One deed after the other, until somebody ends this."""
    while True:
        path = rng.choice(files(library, hidden=False))
        rng.choice(deeds(library, path, rng))()


def examine(library: Library, base: set[str], counts: Counter[str]) -> None:
    """Every card file is whole, and no card of the first ones is gone."""
    seen = Counter[str]()
    for path in files(library):
        read, picture = read_card(path)
        assert picture == PICTURE, path
        assert len(read.pose) == 40, path
        seen[read.identity] += 1
    there = Counter(read_card(p)[0].identity for p in files(library, hidden=False))
    kept = {read_card(p)[0].identity for p in (library.own / "removed").rglob(f"*{SUFFIX}")}
    for identity in base:
        assert there[identity] or identity in kept, f"lost {identity}"
    counts["twice"] += sum(1 for identity in base if there[identity] > 1)
    for path in library.folder.rglob("*.part"):
        assert path.name.startswith("."), path
        counts["parts"] += 1
        path.unlink()


def tidy(library: Library, base: set[str]) -> None:
    """What a killed take-out left in the keep goes back, and second names go."""
    there: dict[str, Path] = {}
    for path in files(library, hidden=False):
        identity = read_card(path)[0].identity
        if identity in there or identity not in base:
            path.unlink()
        there[identity] = path
    for path in (library.own / "removed").rglob(f"*{SUFFIX}"):
        if read_card(path)[0].identity in base - set(there):
            library.bring_back(path)
        else:
            path.unlink()
    for path in (library.own / "versions").rglob(f"*{SUFFIX}"):
        path.unlink()


def main(folder: Path, kills: int, seed: int) -> None:
    library = Library.create(folder, "Kill")
    for number in range(BASE):
        library.add(card(f"base {number}"), PICTURE, "ABC"[number % 3])
    base = {read_card(path)[0].identity for path in files(library)}
    rng, counts = random.Random(seed), Counter[str]()
    while counts["kills"] < kills:
        child = os.fork()
        if child == 0:
            try:
                work(library, random.Random(rng.random()))
            finally:
                os._exit(3)
        rng.random()
        time.sleep(rng.uniform(0.0005, 0.02))
        os.kill(child, signal.SIGKILL)
        _, status = os.waitpid(child, 0)
        assert os.WIFSIGNALED(status), "the child ended by itself"
        counts["kills"] += 1
        examine(library, base, counts)
        tidy(library, base)
    print(json.dumps(counts))


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3]))
