"""Starts Fox Hand from this clone, wherever it lies: its own source and nothing of the folder or
the variables of whoever calls."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "src"))

from fox_hand.__main__ import main

main()
