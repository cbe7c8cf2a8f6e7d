"""``python -m tests.library.colleagues FOLDER``: two users with different umasks on one share.

Needs the right to become somebody else. Each does to the other's cards all that people do; what
failed is printed as JSON, with the number of things that were done.
"""

from __future__ import annotations

import itertools
import json
import os
import subprocess
import sys
import traceback
import uuid
from collections.abc import Callable
from pathlib import Path

from fox_hand.library.files.access import contradiction
from fox_hand.library.format.container import read_card
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store import moves, sheet_moves
from fox_hand.library.store.moves import current
from fox_hand.library.store.sheets import Sheet, write_sheet
from fox_hand.library.store.store import Library
from tests.library.killer import PICTURE, card

TEAM, OWN = 61_000, {"Ines": 61_001, "Tomas": 61_002}
UMASKS = (0o002, 0o022, 0o077)


def as_user(name: str, umask: int, deed: Callable[[], object]) -> str:
    """What went wrong when somebody did something; empty if nothing."""
    out, inside = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(out)
        said = ""
        try:
            os.setgroups([TEAM])
            os.setresgid(OWN[name], OWN[name], OWN[name])
            os.setresuid(OWN[name], OWN[name], OWN[name])
            os.umask(umask)
            deed()
        except BaseException:  # noqa: BLE001 - told to the one who asked
            said = traceback.format_exc()[-600:]
        os.write(inside, said.encode())
        os._exit(0)
    os.close(inside)
    with os.fdopen(out, "rb") as pipe:
        said = pipe.read().decode()
    os.waitpid(child, 0)
    return said


def begin(folder: Path) -> None:
    library = Library.create(folder, "Shared")
    for name in ("over", "out", "moved", "named"):
        library.add(card(name), PICTURE, "Ours/Hands")
    _versions(library, "over")


def _versions(library: Library, name: str) -> None:
    path = library.folder / "Ours" / "Hands" / f"{name}{SUFFIX}"
    moves.store_over(library, current(library, path), card(name, note="again"), PICTURE)


def everything(folder: Path, who: str) -> None:
    """All that is done to a colleague's cards, and cards of one's own for the next."""
    library = Library(folder)
    hands = folder / "Ours" / "Hands"
    for path in sorted(folder.rglob(f"*{SUFFIX}")):
        read_card(path)
    _versions(library, "over")
    moves.take_out(library, hands / f"out{SUFFIX}")
    moves.move(library, hands / f"moved{SUFFIX}", f"Sheet of {who}/Inner")
    moves.rename(library, hands / f"named{SUFFIX}", f"named by {who}")
    write_sheet(library, "Ours/Hands", Sheet("#aabbcc"))
    for name in ("out", "moved", "named"):
        library.add(card(name), PICTURE, "Ours/Hands")
    sheet_moves.make(library, f"Sheet {uuid.uuid4().hex}")
    moves.keep_twins(library, f"a{who}", f"b{who}", kept=True)


def shares(folder: Path) -> list[str]:
    """Every pair of umasks, with set-gid and without, in both orders and again."""
    failed = []
    for number, (first, second, bit) in enumerate(
        itertools.product(UMASKS, UMASKS, (0o775, 0o2775))
    ):
        place = folder / f"share {number}"
        place.mkdir()
        os.chown(place, OWN["Ines"], TEAM)
        place.chmod(bit)
        turns: list[tuple[str, int, Callable[[], object]]] = [
            ("Ines", first, lambda place=place: begin(place))
        ]
        for who, umask in (("Tomas", second), ("Ines", first), ("Tomas", second)):
            turns.append((who, umask, lambda place=place, who=who: everything(place, who)))
        for who, umask, deed in turns:
            said = as_user(who, umask, deed)
            if said:
                failed.append(f"{who} with umask {umask:03o}, folder {bit:o}: {said}")
        found = contradiction(place)
        if found is not None:
            failed.append(f"{found.path} is called contradictory: {found.why}")
    return failed


def old_share(folder: Path) -> list[str]:
    """Rights as other programs leave them: they are named, and the command mends them."""
    place = folder / "old"
    place.mkdir()
    os.chown(place, OWN["Ines"], TEAM)
    place.chmod(0o775)
    failed = [as_user("Ines", 0o022, lambda: begin(place))]
    for path in (place / ".foxhand", place / "Ours" / "Hands"):
        path.chmod(0o700)
    found = contradiction(place)
    if found is None:
        return [*failed, "nothing is said of folders that nobody else can enter"]
    if not as_user("Tomas", 0o022, lambda: everything(place, "Tomas")):
        failed.append("Tomas got in where he may not")
    subprocess.run(["/bin/sh", "-c", found.mend], check=True)
    failed.append(as_user("Tomas", 0o022, lambda: everything(place, "Tomas")))
    if (still := contradiction(place)) is not None:
        failed.append(f"still: {still.why} ({still.path})")
    return [said for said in failed if said]


def main() -> None:
    folder = Path(sys.argv[1])
    folder.chmod(0o755)
    # once as oneself, so that all is loaded: others may not be able to read where Python lies
    begin(folder / "own")
    everything(folder / "own", "nobody")
    json.dump({"shares": shares(folder), "old": old_share(folder)}, sys.stdout)


if __name__ == "__main__":
    main()
