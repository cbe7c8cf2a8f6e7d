"""Charts that come with the program; a library takes a copy of those it wants."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

from fox_hand.base.files.documents import decode_toml
from fox_hand.library.charts.chart import SUFFIX
from fox_hand.library.charts.chart_file import ChartFile, chart_of

ORDER = ("mouth", "emotions", "hands", "lids", "stances", "expressions", "puppet")


def ready_charts() -> tuple[ChartFile, ...]:
    """All of them, in the order they are offered."""
    folder = resources.files("fox_hand.library.charts").joinpath("shipped")
    found = []
    for name in ORDER:
        text = folder.joinpath(f"{name}{SUFFIX}").read_text("utf-8")
        path = Path(f"{name}{SUFFIX}")
        found.append(ChartFile(path, chart_of(decode_toml(text), path), text))
    return tuple(found)
