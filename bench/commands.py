"""``scripts/python bench/commands.py``: how soon the command line answers, beside a bare Python."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).parents[1]
START = [sys.executable, "-I", "-X", "utf8", str(ROOT / "scripts" / "start.py")]
ASKED = {
    "bare Python": [sys.executable, "-I", "-c", "pass"],
    "--help": [*START, "--help"],
    "library tag --help": [*START, "library", "tag", "--help"],
    "--version": [*START, "--version"],
    "./fox-hand --help, with the starter": [str(ROOT / "fox-hand"), "--help"],
}


def seconds(command: list[str]) -> float:
    """The median of nine."""
    found = []
    for _ in range(9):
        start = time.perf_counter()
        subprocess.run(command, capture_output=True, check=True)
        found.append(time.perf_counter() - start)
    return statistics.median(found)


def main() -> None:
    bare = seconds(ASKED["bare Python"])
    for words, command in ASKED.items():
        took = seconds(command)
        print(f"{words:<40}{took * 1000:7.0f} ms  {took / bare:5.1f} times bare  aim 250 ms")


if __name__ == "__main__":
    main()
