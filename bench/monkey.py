"""``scripts/python bench/monkey.py [MINUTES] [SEED]``: random use of the window, its memory and its
stalls. Every five minutes it goes on with another shot, as shipped; what a warm window has then may
grow by 30 MB an hour."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
WARM = 2  # shots after which everything has been seen once


def main() -> None:
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 10.0
    seed = sys.argv[2] if len(sys.argv) > 2 else "1"
    environment = {
        **os.environ,
        "QT_QPA_PLATFORM": "offscreen",
        "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}",
    }
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "tests.ui.monkey", str(minutes * 60), seed, folder]
        done = subprocess.run(
            command, cwd=ROOT, env=environment, stdout=subprocess.PIPE, check=True
        )
    found = json.loads(done.stdout)
    print(f"{found['steps']} steps: {found['did']}")
    for number, (window, drawing) in enumerate(found["memory"]):
        print(f"after {number:3} minutes: window {window:6.0f} MB, drawing {drawing:6.0f} MB")
    chapters = found["chapters"]
    print(f"with a shot just opened: {chapters} MB")
    if len(chapters) > WARM + 1:
        hours = (len(chapters) - 1 - WARM) / 12
        print(f"grows by {(chapters[-1] - chapters[WARM]) / hours:.0f} MB an hour  aim 30")
    for seconds, deed in found["slow"][:10]:
        print(f"{seconds:5.2f} s  {deed}")
    print(f"faults {sum(found['faults'].values())}, left {found['left']}, parts {found['parts']}")
    for fault, times in found["faults"].items():
        print(f"{times} times:\n{fault}")


if __name__ == "__main__":
    main()
