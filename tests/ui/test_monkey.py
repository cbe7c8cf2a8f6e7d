"""Random clicks, keys and drags on the real window; ten minutes of them in ``bench/monkey.py``."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_twenty_seconds_of_a_monkey_leaves_everything_in_order(tmp_path: Path) -> None:
    command = [sys.executable, "-m", "tests.ui.monkey", "20", "5", str(tmp_path)]
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        command, cwd=ROOT, env=environment, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr[-3000:]
    found = json.loads(done.stdout)
    assert found["faults"] == {}
    assert found["left"] == []
    assert found["parts"] == []
    assert sum(found["did"].values()) > 50
    window, drawing = found["memory"][-1]
    assert window < 450
    assert drawing < 450
