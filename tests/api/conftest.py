"""A folder with the demo's library and cast, as scripts find it."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from fox_hand.demo import demo_project
from fox_hand.library.charts import chart_moves
from fox_hand.library.charts.ready import ready_charts
from fox_hand.library.store.store import Library as Store


@pytest.fixture
def work(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """That folder, with a chart in the library."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    for part in ("library", "cast"):
        shutil.copytree(demo_project.shipped() / part, tmp_path / part)
    mouths = next(file for file in ready_charts() if "outh" in file.chart.name)
    chart_moves.add(Store(tmp_path / "library"), mouths.chart, mouths.text, mouths.key)
    monkeypatch.chdir(tmp_path)
    return tmp_path
