"""``python -m tests.library.racer FOLDER DEED TIMES``: two programs do the same thing to the same
cards at once, each TIMES times. Prints counts; what must hold is asserted.
"""

from __future__ import annotations

import json
import os
import random
import sys
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.store import moves, sheet_moves
from fox_hand.library.store.moves import current
from fox_hand.library.store.outbox import Outbox, Waiting
from fox_hand.library.store.store import Library
from fox_hand.session.libraries.personal import PersonalCards
from tests.library.killer import PICTURE, card, files

Deed = Callable[[Library, random.Random, str, int], object]


def _one(library: Library, rng: random.Random) -> Path:
    """Any card, as this program sees the library; it may be gone when it is touched."""
    return rng.choice(files(library, hidden=False))


def _add(library: Library, rng: random.Random, who: str, number: int) -> object:
    return library.add(card("same name", note=f"{who} {number}"), PICTURE, "A")


def _tag(library: Library, rng: random.Random, who: str, number: int) -> object:
    entry = current(library, _one(library, rng))
    return moves.reword(library, entry, lambda c: replace(c, tags=(f"{who}{number}",)))


def _move(library: Library, rng: random.Random, who: str, number: int) -> object:
    return moves.move(library, _one(library, rng), rng.choice("ABC"))


def _rename(library: Library, rng: random.Random, who: str, number: int) -> object:
    return moves.rename(library, _one(library, rng), f"name {rng.randrange(4)}")


def _merge(library: Library, rng: random.Random, who: str, number: int) -> object:
    sheet, into = rng.sample("ABC", 2)
    return sheet_moves.merge(library, sheet, into)


def _deliver(library: Library, rng: random.Random, who: str, number: int) -> object:
    outbox = Outbox(library.folder.parent / "outbox")
    one = card(f"{who} {number}")
    outbox.put(Waiting(str(library.folder), "A", one.name, one.identity), card_bytes(one, PICTURE))
    return outbox.deliver(Library(library.folder))


def _mark(library: Library, rng: random.Random, who: str, number: int) -> object:
    cards = PersonalCards(Places.under(library.folder.parent / "home"))
    cards.set_favourite([f"{who} {number}"], on=True)
    cards.put_on("both")
    cards.save()
    return None


DEEDS: dict[str, Deed] = {
    "add": _add,
    "tag": _tag,
    "move": _move,
    "rename": _rename,
    "merge": _merge,
    "deliver": _deliver,
    "mark": _mark,
}


def work(library: Library, deed: str, who: str, times: int, start: int) -> Counter[str]:
    """Wait until both are there, then go."""
    rng, counts = random.Random(who), Counter[str]()
    os.read(start, 1)
    for number in range(times):
        try:
            DEEDS[deed](library, rng, who, number)
            counts["done"] += 1
        except FoxHandError as error:
            counts[error.code] += 1
        except (FileNotFoundError, IndexError):
            counts["gone"] += 1  # the test's own look at the folder
    return counts


def main(folder: Path, deed: str, times: int) -> None:
    library = Library.create(folder / "library", "Race")
    for number in range(6):
        library.add(card(f"base {number}"), PICTURE, "ABC"[number % 3])
    base = {read_card(path)[0].identity for path in files(library)}
    start, go = os.pipe()
    answers, children = [], []
    for who in ("Ines", "Tomas"):
        out, inside = os.pipe()
        child = os.fork()
        if child == 0:
            os.write(inside, json.dumps(work(library, deed, who, times, start)).encode())
            os._exit(0)
        os.close(inside)
        answers.append(out)
        children.append(child)
    os.write(go, b"go")
    counts = Counter[str]()
    for out, child in zip(answers, children, strict=True):
        with os.fdopen(out, "rb") as answer:
            counts.update(json.loads(answer.read()))
        assert os.waitpid(child, 0)[1] == 0
    if deed == "deliver":
        Outbox(folder / "outbox").deliver(library)
    examine(library, deed, base, counts, 2 * times)
    print(json.dumps(counts))


def examine(library: Library, deed: str, base: set[str], counts: Counter[str], tries: int) -> None:
    seen = Counter(read_card(path)[0].identity for path in files(library, hidden=False))
    assert all(seen[identity] == 1 for identity in base), "a card is lost or there twice"
    assert max(seen.values()) == 1
    if deed in ("add", "deliver"):
        assert len(seen) == len(base) + tries
    if deed == "mark":
        kept = msgspec.json.decode((library.folder.parent / "home/data/cards.json").read_bytes())
        assert len(kept["favourites"]) == tries
        assert kept["used"] == {"both": tries}
    assert counts["done"] > 0
    assert not list(library.folder.rglob("*.part"))
    assert not list((library.own / "moving").glob("*"))


if __name__ == "__main__":
    main(Path(sys.argv[1]), sys.argv[2], int(sys.argv[3]))
