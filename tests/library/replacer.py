"""Replaces one card again and again; see ``test_faults.py``.

``python -m tests.library.replacer FOLDER CARD NAME TIMES`` prints how often it came too late.
"""

from __future__ import annotations

import random
import sys
import time
from dataclasses import replace
from pathlib import Path

from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.store.conflicts import set_aside
from fox_hand.library.store.moves import current
from fox_hand.library.store.store import CardChangedError, Library


def main(folder: Path, path: Path, name: str, times: int) -> None:
    library, late, pause = Library(folder), 0, random.Random(name)
    card, picture = read_card(path)
    entry = current(library, path)
    print("ready", flush=True)
    sys.stdin.readline()
    for number in range(times):
        time.sleep(pause.uniform(0, 0.004))  # as a person would, so that the other comes between
        mine = replace(card, note=f"{name} {number}", author=name)
        try:
            library.replace(entry, mine, picture)
        except CardChangedError:
            late += 1
            set_aside(library, entry.identity, card_bytes(mine, picture))
        entry = current(library, path)
    print(late)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3], int(sys.argv[4]))
