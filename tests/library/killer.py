"""Works on a library in children that are killed in the middle; see ``test_faults.py``.

``python -m tests.library.killer FOLDER KILLS SEED [DEED]`` prints one JSON object with counts.
"""

from __future__ import annotations

import json
import os
import random
import signal
import sys
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from fox_hand.core.pose.pose import Held, Pose
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store import moves, sheet_moves
from fox_hand.library.store.journal import carry_on
from fox_hand.library.store.moves import current
from fox_hand.library.store.outbox import Outbox, Waiting
from fox_hand.library.store.pack import TakeIn, offers, read_pack, take_in, write_pack
from fox_hand.library.store.store import Library

PICTURE = b"\x89PNG" + bytes(range(256)) * 120
BASE = 8


def card(name: str, note: str = "") -> Card:
    held = {f"control_{i}": Held(turn=(0.0, 0.0, 0.0, 1.0), move=(i, 0, 0)) for i in range(40)}
    return Card(name, Pose(held), note=note)


def files(library: Library, hidden: bool = True) -> list[Path]:
    """Card files in sheets, and with ``hidden`` those in the library's own keep."""
    found = library.folder.rglob(f"*{SUFFIX}")
    return [p for p in found if hidden or ".foxhand" not in p.parts]


Deed = Callable[[Library, random.Random], object]


def _any(library: Library, rng: random.Random) -> Path:
    return rng.choice(files(library, hidden=False))


def _tagged(library: Library, rng: random.Random) -> object:
    entry = current(library, _any(library, rng))
    return moves.reword(library, entry, lambda c: replace(c, tags=("x",)))


def _replaced(library: Library, rng: random.Random) -> object:
    new = card("base", note="again" * 50)
    return moves.store_over(library, current(library, _any(library, rng)), new, PICTURE)


def _merged(library: Library, rng: random.Random) -> object:
    sheet, into = rng.sample("ABC", 2)
    (library.folder / sheet).mkdir(exist_ok=True)
    return sheet_moves.merge(library, sheet, into)


def _packed(library: Library, rng: random.Random) -> object:
    entries = [current(library, path) for path in files(library, hidden=False)]
    return write_pack(library.folder.parent / "pack.foxpack", "All", entries)


def _taken_in(library: Library, rng: random.Random) -> object:
    pack = library.folder.parent / "first.foxpack"
    return [take_in(library, pack, one, None, TakeIn.BOTH) for one in offers(pack, lambda _: None)]


def _delivered(library: Library, rng: random.Random) -> object:
    outbox = Outbox(library.folder.parent / "outbox")
    one = card(f"waits {rng.randrange(99)}")
    outbox.put(Waiting(str(library.folder), "A", one.name, one.identity), card_bytes(one, PICTURE))
    return outbox.deliver(library)


DEEDS: dict[str, Deed] = {
    "tag": _tagged,
    "replace": _replaced,
    "rename": lambda lib, rng: moves.rename(lib, _any(lib, rng), f"card {rng.randrange(99)}"),
    "move": lambda lib, rng: moves.move(lib, _any(lib, rng), rng.choice("ABC")),
    "take out": lambda lib, rng: moves.take_out(lib, _any(lib, rng)).undo(),
    "add": lambda lib, rng: lib.add(card(f"new {rng.randrange(99)}"), PICTURE, "A"),
    "merge": _merged,
    "pack": _packed,
    "take in": _taken_in,
    "deliver": _delivered,
}


def work(library: Library, rng: random.Random, names: Sequence[str]) -> None:
    """One deed after the other, until somebody ends this."""
    while True:
        DEEDS[rng.choice(names)](library, rng)


def examine(library: Library, base: set[str], counts: Counter[str]) -> None:
    """Every card file is whole, and no card of the first ones is gone or there twice."""
    carry_on(library)  # as the next start does
    for pack in library.folder.parent.glob("*.foxpack"):
        counts["packs"] += len(read_pack(pack).cards) > 0
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
    assert all(there[identity] <= 1 for identity in base), "one card in two files"
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


def main(folder: Path, kills: int, seed: int, *only: str) -> None:
    library = Library.create(folder, "Kill")
    for number in range(BASE):
        library.add(card(f"base {number}"), PICTURE, "ABC"[number % 3])
    base = {read_card(path)[0].identity for path in files(library)}
    entries = [current(library, path) for path in files(library)]
    write_pack(folder.parent / "first.foxpack", "First", entries)
    rng, counts = random.Random(seed), Counter[str]()
    while counts["kills"] < kills:
        child = os.fork()
        if child == 0:
            try:
                work(library, random.Random(rng.random()), only or list(DEEDS))
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
    main(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3]), *sys.argv[4:])
