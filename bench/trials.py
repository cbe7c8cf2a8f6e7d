"""``scripts/python bench/trials.py [KILLS] [RACES]``: the trials of the library at full length.

Prints a table: what, times tried, held. Without numbers 500 kills and twice 500 races of a kind.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
ENVIRONMENT = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}"}


def said(module: str, *words: str) -> tuple[bool, str]:
    """Whether a trial held, and what it printed or why it did not."""
    with tempfile.TemporaryDirectory(prefix="trial-") as folder:
        command = [sys.executable, "-m", module, f"{folder}/trial", *words]
        if module.endswith("racer"):
            Path(command[3]).mkdir()
        done = subprocess.run(
            command, cwd=ROOT, env=ENVIRONMENT, capture_output=True, text=True, check=False
        )
    return done.returncode == 0, done.stdout if done.returncode == 0 else done.stderr[-400:]


def row(what: str, tried: str, held: bool, words: str) -> None:
    print(f"{what:<28}{tried:>8}   {'held' if held else 'FAILED':<8}{words}", flush=True)


def main() -> None:
    sys.path.insert(0, str(ROOT))
    from tests.library import killer, racer

    kills = sys.argv[1] if len(sys.argv) > 1 else "500"
    races = sys.argv[2] if len(sys.argv) > 2 else "500"
    for deed in killer.DEEDS:
        held, words = said("tests.library.killer", kills, "7", deed)
        row(f"kill -9 during: {deed}", kills, held, words.strip())
    for deed in racer.DEEDS:
        held, words = said("tests.library.racer", deed, races)
        row(f"two programs at once: {deed}", f"2x{races}", held, words.strip())
    held, words = said("tests.hostile", "1")
    found = json.loads(words) if held else {}
    for kind, of in found.items():
        row(f"hostile files: {kind}", str(of["tried"]), not of["wrong"], "; ".join(of["wrong"]))


if __name__ == "__main__":
    main()
