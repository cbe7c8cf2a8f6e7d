"""``python -m tests.interchange.fuzz FILE SEED COUNT``: damaged copies of a file, one by one.

Run in a process of its own by the test. Every copy goes through all that the commands do with a
file of its kind: read as a rig and mirrored, a card put on it and taken from it, its motion read
and written in every format. Each must give a result or a sentence within five seconds, and the
process must stay below a gigabyte.
"""

from __future__ import annotations

import json
import random
import re
import resource
import signal
import struct
import sys
import tempfile
from collections import Counter
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from fox_hand.base.errors import FoxHandError
from fox_hand.base.motion_wish import MotionWish
from fox_hand.core.animation.motion import motion_of
from fox_hand.core.maths.rotations import normalise
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.readers import RIG_KINDS, read_rig
from fox_hand.library.format.card import Card
from fox_hand.session.animating.motion_import import frame_of
from fox_hand.session.app.headless import Laid, card_on, frames_for, moved_pose, worn
from fox_hand.session.exporting.motion_export import write_motion, write_pose
from fox_hand.session.figures.figure import Figure

SECONDS, BYTES = 5, 1 << 30
WORDS = (
    b"\x00",
    b"\xff",
    b"\xc3\x28",
    b"-1",
    b"1e308",
    b"nan",
    b"{",
    b"}",
    b"[",
    b'"',
    b"99999999999",
    b"",
)
NUMBERS = (b"0", b"-1", b"1e308", b"-1e308", b"nan", b"inf", b"1e-320", b"7", b"2147483648", b"0.5")
VALUES: tuple[Any, ...] = (
    None,
    -1,
    0,
    1,
    7,
    1e308,
    float("nan"),
    2**31,
    2**63,
    -0.5,
    True,
    "",
    "x",
    "\ud800",
    [],
    [0, 0, 0],
    [-1],
    {},
    {"x": 1},
)


def mutated(data: bytes, rng: random.Random) -> bytes:
    """One to three changes: bytes, cuts, repeats, interesting words; seldom the end is gone."""
    found = bytearray(data)
    for _ in range(rng.randint(1, 3)):
        if not found:
            break
        at, kind = rng.randrange(len(found)), rng.randrange(13) // 3
        if kind == 0:
            found[at] = rng.randrange(256)
        elif kind == 1:
            del found[at : at + rng.randint(1, 64)]
        elif kind == 2:
            found[at:at] = found[at : at + rng.randint(1, 64)]
        elif kind == 3:
            word = rng.choice(WORDS)
            found[at : at + len(word)] = word
        else:
            del found[at:]
    return bytes(found)


def restructured(data: bytes, rng: random.Random) -> bytes:
    """A GLB with one or two values of its description exchanged, doubled or left out."""
    size = struct.unpack_from("<I", data, 12)[0]
    document, rest = json.loads(data[20 : 20 + size]), data[20 + size :]
    for _ in range(rng.randint(1, 2)):
        spots: list[tuple[Any, Any]] = []
        _collect(document, spots)
        holder, key = rng.choice(spots)
        kind = rng.randrange(4)
        if kind == 0:
            del holder[key]
        elif kind == 1 and isinstance(holder, list):
            holder.insert(key, holder[key])
        elif kind == 2 and isinstance(holder[key], int):
            holder[key] += rng.choice((-1, 1, 3, 1000))
        else:
            holder[key] = rng.choice(VALUES)
    text = json.dumps(document).encode(errors="surrogatepass")
    text += b" " * (-len(text) % 4)
    head = struct.pack("<4sIII4s", b"glTF", 2, 20 + len(text) + len(rest), len(text), b"JSON")
    return head + text + rest


def renumbered(data: bytes, rng: random.Random) -> bytes:
    """A text with one to three of its numbers exchanged."""
    numbers = list(re.finditer(rb"-?\b\d+(?:\.\d+)?(?:e-?\d+)?\b", data))
    for found in sorted(rng.sample(numbers, rng.randint(1, 3)), key=lambda m: -m.start()):
        data = data[: found.start()] + rng.choice(NUMBERS) + data[found.end() :]
    return data


def _collect(value: Any, spots: list[tuple[Any, Any]]) -> None:
    items = value.items() if isinstance(value, dict) else enumerate(value)
    for key, inner in list(items):
        spots.append((value, key))
        if isinstance(inner, dict | list):
            _collect(inner, spots)


def too_long(*_: object) -> None:
    raise TimeoutError("longer than five seconds")


def card_of(path: Path) -> Card:
    """A card that holds all of a figure, moved and turned."""
    rig = read_rig(path, 0.01)
    turn = normalise(rig.rest.turn + (0.2, -0.1, 0.3, 0.0))
    state = rig.rest.with_(turn=turn, move=rig.rest.move + 0.05)
    pose = take(rig, state, ChannelFilter.of(rig, range(len(rig.controls))))
    return Card("All", pose, character=rig.name, fingerprint=rig.fingerprint)


def commands(path: Path, card: Card, out: Path) -> list[tuple[str, Callable[[], object]]]:
    """What is done with a file."""

    def rig() -> None:
        read = read_rig(path, 0.01)
        mirror(read, read.rest.with_(turn=read.rest.turn[..., [1, 0, 3, 2]].copy()))

    def apply() -> None:
        actor = Figure(read_rig(path, 0.01), path)
        ready = card_on(card, actor, path.with_name("All.foxcard"))
        state = worn(ready, actor, Laid(0.7))
        write_pose(out / "posed.glb", actor.rig, state)

    def capture() -> None:
        owner = read_rig(path, 0.01)
        states = frames_for(path, owner, MotionWish(rate=30.0)).states
        moved_pose(owner, frame_of(states, 0))

    def convert(kind: str) -> None:
        found = read_performance(path, 24.0)
        motion = motion_of(found.name, found.rig, found.states, found.rate)
        write_motion(out / f"moved{kind}", found.rig, motion)

    kinds = (".glb", ".bvh", ".usda")
    return [
        ("rig", rig),
        ("apply", apply),
        ("capture", capture),
        *((f"convert to {kind}", partial(convert, kind)) for kind in kinds),
    ]


def main() -> None:
    """Prints one line per command that broke a rule."""
    source, seed, count = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
    card = card_of(source)
    data, outcomes = source.read_bytes(), Counter[str]()
    assert source.suffix in RIG_KINDS
    change = restructured if data[:4] == b"glTF" else renumbered
    signal.signal(signal.SIGALRM, too_long)
    with tempfile.TemporaryDirectory() as folder:
        path, out = Path(folder) / source.name, Path(folder) / "out"
        out.mkdir()
        for number in range(seed, seed + count):
            rng = random.Random(number)
            path.write_bytes(change(data, rng) if number % 2 else mutated(data, rng))
            for name, command in commands(path, card, out):
                signal.alarm(SECONDS)
                try:
                    command()
                    outcomes["results"] += 1
                except FoxHandError as error:
                    assert error.sentence().strip(), "an empty sentence"
                    outcomes["sentences"] += 1
                except Exception as error:  # noqa: BLE001 - every other error is what is looked for
                    line = f"seed {number}, {name}: {type(error).__name__}: {error}"
                    sys.stdout.write(line[:300] + "\n")
                finally:
                    signal.alarm(0)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    if peak > BYTES:
        sys.stdout.write(f"{peak >> 20} MB of memory" + "\n")
    results, sentences = outcomes["results"], outcomes["sentences"]
    sys.stderr.write(f"{results} results, {sentences} sentences\n")


if __name__ == "__main__":
    main()
