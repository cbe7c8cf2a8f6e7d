"""A library in a folder of its own, and its cards as an index lists them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from fox_hand.core.pose.pose import Pose
from fox_hand.library.format.card import Card
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.index import Index
from fox_hand.library.index.scan import scan
from fox_hand.library.store.store import Library

Listed = Callable[[Library], list[Entry]]


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library.create(tmp_path / "lib", "Ferry", ("B sheet", "A sheet"))


@pytest.fixture
def listed(tmp_path: Path) -> Listed:
    """All cards of a library by name, as an index has them after looking at the files."""

    def cards(library: Library) -> list[Entry]:
        index = Index.of(library.folder, tmp_path / "cache")
        scan(index)
        items = index.columns().items.tolist()
        found = index.entries(items)
        index.close()
        return [found[item] for item in items]

    return cards


def card(name: str, **values: object) -> Card:
    return Card(**{"name": name, "pose": Pose({}), **values})
