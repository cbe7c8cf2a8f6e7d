"""``python -m tests.interchange.fuzz KIND SEED COUNT``: damaged files of one kind, one by one.

Run in a process of its own by the test: every file must give a rig or a sentence within five
seconds, and the process must stay below a gigabyte.
"""

from __future__ import annotations

import random
import resource
import signal
import sys
import tempfile
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.interchange.readers import read_rig

SECONDS, BYTES = 5, 1 << 30
WORDS = (
    b"\x00",
    b"\xff",
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


def mutated(data: bytes, rng: random.Random) -> bytes:
    """One to eight changes: bytes, cuts, repeats, interesting words."""
    found = bytearray(data)
    for _ in range(rng.randint(1, 8)):
        if not found:
            break
        at, kind = rng.randrange(len(found)), rng.randrange(5)
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


def too_long(*_: object) -> None:
    raise TimeoutError("longer than five seconds")


def main() -> None:
    """Prints one line per file that broke a rule."""
    source, seed, count = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
    data = source.read_bytes()
    signal.signal(signal.SIGALRM, too_long)
    outcomes = {"rig": 0, "sentence": 0}
    with tempfile.TemporaryDirectory() as folder:
        for number in range(seed, seed + count):
            rng = random.Random(number)
            path = Path(folder) / source.name
            path.write_bytes(mutated(data, rng))
            signal.alarm(SECONDS)
            try:
                read_rig(path, 0.01)
                outcomes["rig"] += 1
            except FoxHandError as error:
                assert error.sentence().strip(), "an empty sentence"
                outcomes["sentence"] += 1
            except Exception as error:  # noqa: BLE001 - every other error is what is looked for
                sys.stdout.write(f"seed {number}: {type(error).__name__}: {error}" + "\n")
            finally:
                signal.alarm(0)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    if peak > BYTES:
        sys.stdout.write(f"{peak >> 20} MB of memory" + "\n")
    sys.stderr.write(f"{outcomes['rig']} rigs, {outcomes['sentence']} sentences\n")


if __name__ == "__main__":
    main()
