"""An index that is damaged while its library is open is made anew from the cards."""

from __future__ import annotations

import sqlite3

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.libraries.request import Request
from tests.session.conftest import entry


def damage(workspace: Workspace) -> None:
    """Its tables are gone, as after a bad sector or somebody's cleaning."""
    reading = workspace.open_libraries.places[0].reading
    assert reading is not None
    with sqlite3.connect(reading.index.file) as file:
        whole = "SELECT name FROM sqlite_master WHERE sql LIKE 'CREATE%TABLE%'"
        for (name,) in file.execute(whole).fetchall():
            if "_" not in name:  # those of the word search go with it
                file.execute(f"DROP TABLE IF EXISTS {name}")


def sound(workspace: Workspace) -> bool:
    reading = workspace.open_libraries.places[0].reading
    assert reading is not None
    try:
        with sqlite3.connect(reading.index.file) as file:
            return bool(file.execute("SELECT count(*) FROM card").fetchone()[0])
    except sqlite3.DatabaseError:
        return False


def names(workspace: Workspace, text: str) -> list[str]:
    result = workspace.open_libraries.find(Request(text))
    return sorted(e.name for e in workspace.open_libraries.entries(result))


@pytest.mark.parametrize("asked", ["word", "cards", "cards later", "one that changed"])
def test_it_is_made_anew_whatever_is_asked_of_it(workspace: Workspace, asked: str) -> None:
    open_libraries = workspace.open_libraries
    told: list[FoxHandError] = []
    open_libraries.failed.connect(told.append)
    fist = entry(workspace, "Fist")
    before = names(workspace, "grip")
    everything = names(workspace, "")
    keys = open_libraries.keys_in(open_libraries.places[0], "Marrow/Hands")
    assert "Fist" in before
    assert set(before) < set(everything)
    open_libraries._entries.clear()  # as in a library of more cards than are kept at hand
    assert sound(workspace)
    damage(workspace)
    assert not sound(workspace)
    if asked == "word":
        names(workspace, "grip")
    elif asked == "cards":
        open_libraries.fetch(keys)
    elif asked == "cards later":
        open_libraries.fetch_later(keys, lambda: None)
    else:
        open_libraries.look(open_libraries.places[0], [fist.path])
    assert sound(workspace)  # before anybody searches, which would see it too
    assert names(workspace, "grip") == before
    assert names(workspace, "") == everything
    assert fist.path.is_file()
    assert [e.code for e in told if e.code != "index.damaged"] == []
