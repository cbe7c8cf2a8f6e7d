"""Power cuts, full disks, two people at once, damaged files: no card is lost or half-written.

The counts are printed (``pytest -s``) and are part of what is promised.
"""

from __future__ import annotations

import errno
import io
import json
import os
import random
import subprocess
import sys
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager, nullcontext
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.library.files import atomic
from fox_hand.library.format.container import card_bytes, damage, read_card
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store import moves, sheet_moves
from fox_hand.library.store.conflicts import conflicts, set_aside
from fox_hand.library.store.moves import current
from fox_hand.library.store.outbox import Outbox, Waiting
from fox_hand.library.store.store import Library
from tests.library.conftest import Listed
from tests.library.killer import PICTURE, card, files

ROOT = Path(__file__).parents[3]
KILLS = 150  # ``bench/trials.py`` kills a thousand times
REPLACED = 150  # by each of two programs
CALLS = ("open", "fsync", "replace", "rename", "link", "unlink", "chmod", "mkdir", "fdopen")


def test_killing_the_writer_loses_no_card(tmp_path: Path) -> None:
    """kill -9 at random moments of adding, replacing, renaming, moving, taking out."""
    command = [sys.executable, "-m", "tests.library.killer", str(tmp_path / "lib"), str(KILLS), "7"]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    counts = json.loads(done.stdout)
    print(f"\nkilled: {counts}")
    assert counts["kills"] == KILLS


class Faulty:
    """Calls of the operating system, one of which fails.

    Args:
        at: which of them, counted from 0; -1 for none.
        code: the error number it fails with.
        inside: only calls that touch this folder count.
    """

    def __init__(self, at: int, code: int, inside: Path) -> None:
        self._at, self._code, self._inside = at, code, str(inside)
        self.made: list[str] = []

    def _fails(self, name: str) -> None:
        self.made.append(name)
        if len(self.made) - 1 == self._at:
            raise OSError(self._code, os.strerror(self._code))

    def wrapped(self, name: str, real: Callable[..., Any]) -> Callable[..., Any]:
        def call(*args: Any, **kwargs: Any) -> Any:
            about = str(args[0]) if args and not isinstance(args[0], int) else self._inside
            if about.startswith(self._inside) and not about.endswith("lock"):
                self._fails(name)
            found = real(*args, **kwargs)
            return self._file(found) if name == "fdopen" else found

        return call

    def _file(self, file: io.BufferedWriter) -> Any:
        faulty = self

        class File:
            def __enter__(self) -> File:
                return self

            def __exit__(self, *_: object) -> None:
                file.close()

            def write(self, data: bytes) -> int:
                half = file.write(data[: len(data) // 2])
                faulty._fails("write")
                return half + file.write(data[len(data) // 2 :])

            def __getattr__(self, name: str) -> Any:
                return getattr(file, name)

        return File()


@contextmanager
def failing(at: int, code: int, inside: Path, *, one_step: bool = True) -> Iterator[Faulty]:
    """With ``one_step`` false on a file system that cannot rename to a free name in one step."""
    faulty = Faulty(at, code, inside)
    rename = faulty.wrapped("rename_new", atomic.rename_new) if one_step else cannot
    with pytest.MonkeyPatch.context() as patch:
        for name in CALLS:
            patch.setattr(os, name, faulty.wrapped(name, getattr(os, name)))
        patch.setattr(atomic, "rename_new", rename)
        yield faulty


def cannot(*_: object) -> None:
    raise OSError(errno.EINVAL, os.strerror(errno.EINVAL))


Deed = Callable[[Library, Path], object]
DEEDS: dict[str, Deed] = {
    "add": lambda library, _: library.add(card("second"), PICTURE, "B/new"),
    "replace": lambda library, path: library.replace(
        current(library, path), card("first", note="changed"), PICTURE
    ),
    "reword": lambda library, path: moves.reword(
        library, current(library, path), lambda c: replace(c, tags=("new",))
    ),
    "rename": lambda library, path: moves.rename(library, path, "other name"),
    "move": lambda library, path: moves.move(library, path, "B"),
    "take out": moves.take_out,
    "a whole copy": lambda library, path: moves.use_copy(library, path, path),
    "rename the sheet": lambda library, _: sheet_moves.move(library, "A", "D/new"),
    "set aside": lambda library, path: set_aside(
        library, current(library, path).identity, card_bytes(card("late"), PICTURE)
    ),
}

MOVING = {"move", "take out", "rename the sheet"}


@pytest.mark.parametrize("name", list(DEEDS))
@pytest.mark.parametrize("code", [errno.ENOSPC, errno.EIO, errno.EACCES])
@pytest.mark.parametrize("one_step", [True, False])
def test_an_error_at_any_system_call_leaves_the_old_card_or_the_new_one(
    tmp_path: Path, name: str, code: int, one_step: bool
) -> None:
    deed, at, counts = DEEDS[name], 0, Counter[str]()
    while True:
        library = Library.create(tmp_path / f"lib {at}", "Full", ("A", "B"))
        path = library.add(card("first", note="old"), PICTURE, "A")
        identity = current(library, path).identity
        with failing(at, code, library.folder, one_step=one_step) as faulty:
            try:
                deed(library, path)
                counts["done"] += 1
            except FoxHandError as error:
                counts["told"] += 1
                assert error.happened.endswith("."), error.happened
                assert error.kept, error.code
        ended = len(faulty.made) <= at  # the deed made fewer calls than that: all were tried
        whole = [read_card(p)[0] for p in files(library)]
        mine = [c for c in whole if c.identity == identity]
        assert mine, f"lost at call {at} ({faulty.made[-1]})"
        assert {c.note for c in mine} <= {"old", "changed"}
        if name in MOVING:
            assert len(mine) == 1, f"a second copy after call {at} ({faulty.made[-1]})"
        litter = [p for p in library.folder.rglob("*.part") if faulty.made.count("unlink") < 2]
        assert not litter or faulty.made[at] == "unlink", (at, faulty.made[at])
        if ended:
            break
        at += 1
    print(f"\n{name}, {errno.errorcode[code]}: {at} calls, {dict(counts)}")
    assert at >= 4
    assert counts["told"] >= 2


def test_two_programs_replacing_one_card_all_the_time_lose_nothing(tmp_path: Path) -> None:
    library = Library.create(tmp_path / "lib", "Both")
    path = library.add(card("one"), PICTURE, "A")
    identity = current(library, path).identity
    workers = [
        subprocess.Popen(
            [
                sys.executable,
                "-m",
                "tests.library.replacer",
                str(library.folder),
                str(path),
                name,
                str(REPLACED),
            ],
            cwd=ROOT,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
        )
        for name in ("Ines", "Tomas")
    ]
    for worker in workers:
        assert worker.stdout is not None
        worker.stdout.readline()
    for worker in workers:
        assert worker.stdin is not None
        worker.stdin.write("go\n")
        worker.stdin.flush()
    late = [int(worker.communicate()[0]) for worker in workers]
    assert [worker.returncode for worker in workers] == [0, 0]
    final = read_card(path)[0]
    waiting, versions = conflicts(library), library.versions(identity)
    print(f"\nreplaced {final.revision - 1} times, {sum(late)} came too late and wait")
    assert final.revision - 1 + sum(late) == 2 * REPLACED
    assert len(waiting) == sum(late)
    assert len(versions) == final.revision - 1
    notes = {read_card(v)[0].note for v in versions} | {c.card.note for c in waiting}
    notes.add(final.note)
    assert notes >= {f"{name} {i}" for name in ("Ines", "Tomas") for i in range(REPLACED)}


def test_damage_at_random_is_told_and_never_made_worse(tmp_path: Path, listed: Listed) -> None:
    """Cards cut off and with flipped bits: what reads is what was written, the rest says so."""
    library = Library.create(tmp_path / "lib", "Damage")
    path = library.add(card("whole"), PICTURE, "A")
    whole, good = path.read_bytes(), read_card(path)[0]
    rng, written = random.Random(11), dict[str, bytes]()
    for number in range(400):
        data = bytearray(whole)
        if number % 2:
            del data[rng.randrange(len(data)) :]
        else:
            for _ in range(rng.randrange(1, 4)):
                data[rng.randrange(len(data))] ^= 1 << rng.randrange(8)
        name = f"damaged {number}{SUFFIX}"
        (path.parent / name).write_bytes(data)
        written[name] = bytes(data)
    counts = Counter[str]()
    for entry in listed(library):
        if entry.path == path:
            continue
        if entry.error is not None:
            counts[entry.error.code] += 1
            assert entry.error.sentence().count("left as it is") == 1
            continue
        counts["fine"] += 1
        assert read_card(entry.path)[0].pose == good.pose
        problem = damage(entry.path)
        if problem is not None and problem.code != "card.picture_damaged":
            counts["found by looking into it"] += 1
            continue
        counts["picture only"] += problem is not None
        with pytest.raises(FoxHandError) if problem is not None else nullcontext():
            library.rewrite(current(library, entry.path), lambda c: replace(c, note="x"))
            written.pop(entry.path.name)
        if problem is not None:  # a new picture mends it
            moves.repicture(library, current(library, entry.path), good, PICTURE, None)
            assert damage(entry.path) is None
            written.pop(entry.path.name)
    print(f"\ndamaged 400: {dict(counts)}")
    listed_so = {c: n for c, n in counts.items() if c == "fine" or c.startswith("card.")}
    assert sum(listed_so.values()) == 400
    assert counts["picture only"] > 50
    for name, data in written.items():
        assert (path.parent / name).read_bytes() == data


def test_what_waits_is_delivered_once_even_if_that_is_cut_off(tmp_path: Path) -> None:
    library = Library.create(tmp_path / "lib", "Share")
    outbox = Outbox(tmp_path / "outbox")
    new, path = card("new"), library.add(card("old", note="old"), PICTURE, "A")
    entry = current(library, path)
    outbox.put(
        Waiting(str(library.folder), "A", "new", new.identity), card_bytes(new, PICTURE, b"LARGE")
    )
    outbox.put(
        Waiting(str(library.folder), "A", "old", entry.identity, f"A/{path.name}", 1),
        card_bytes(card("old", note="mine"), PICTURE),
    )

    def gone(waiting: Path) -> None:
        raise FoxHandError("file.remove", f"{waiting.name} could not be removed.", "")

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("fox_hand.library.store.outbox.remove", gone)  # as if the power failed here
        assert all(d.error is not None for d in outbox.deliver(library))
    library.replace(current(library, path), card("old", note="theirs"), PICTURE)
    found = outbox.deliver(library)
    assert [d.conflict for d in found] == [False, True]
    assert outbox.waiting() == []
    assert outbox.deliver(library) == []
    notes = sorted(read_card(p)[0].note for p in files(library, hidden=False))
    assert notes == ["", "theirs"]
    late = conflicts(library)
    assert [c.card.note for c in late] == ["mine"]
    made = moves.settle_both(library, late[0], path)
    assert made.path is not None
    assert conflicts(library) == []
    assert read_card(made.path)[0].note == "mine"
