"""Hostile files of ten kinds: each is refused in a sentence or read, within five seconds and
500 MB, and takes nothing else with it. There are over 500; a tenth is tried here, all by
``scripts/python -m tests.hostile /tmp/hostile 1``."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

from tests.hostile.kinds import KINDS

ROOT = Path(__file__).parents[1]


def test_hostile_files_are_refused_in_a_sentence(tmp_path: Path) -> None:
    kinds = list(KINDS)
    running = []
    for number in range(2):  # each in a process that has loaded little, for two cores
        folder = tmp_path / str(number)
        folder.mkdir()
        command = [sys.executable, "-m", "tests.hostile", str(folder), "10", *kinds[number::2]]
        running.append(subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, text=True))
    found = {}
    for one in running:
        found |= json.loads(one.communicate()[0])
    assert not {kind: of["wrong"] for kind, of in found.items() if of["wrong"]}
    assert min(of["tried"] for of in found.values()) >= 3
    assert sum(of["tried"] for of in found.values()) >= 50
