"""The library of the whole demo: it is in order, and has what its own numbers say."""

from __future__ import annotations

import shutil
import tomllib
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from fox_hand.base.places import Places
from fox_hand.cli import make_app
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import bind
from fox_hand.interchange.readers import read_rig
from fox_hand.library.charts.chart_file import read_charts
from fox_hand.library.charts.filling import fill
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.library_file import read_library_file
from fox_hand.session.app.workspace import Workspace
from tests.small_demo import WHOLE

NUMBERS = Path(__file__).parents[1] / "tools" / "cast" / "numbers" / "charts.toml"
LIBRARY = WHOLE / "library"


@pytest.fixture(scope="module")
def workspace(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Workspace]:
    made = Workspace(Places.under(tmp_path_factory.mktemp("demo")))
    made.open_libraries.open(LIBRARY)
    return made


@pytest.fixture(scope="module")
def cards(workspace: Workspace) -> list[Entry]:
    return list(workspace.open_libraries.entries())


def test_everybody_has_cards_and_every_card_says_whose_it_is(cards: list[Entry]) -> None:
    count = Counter(card.character for card in cards)
    assert count["Marrow"] >= 115
    assert min(count[who] for who in ("Pim", "Quill", "Brandle")) >= 30
    assert count["Gull"] >= 30
    assert len({card.identity for card in cards}) == len(cards)
    for card in cards:
        assert card.readable and card.author, card.name
        assert card.sheet.startswith(card.character)
    approved = [card for card in cards if card.locked]
    assert len(approved) >= 3


def test_nothing_in_it_is_in_doubt(
    tmp_path: Path, places: Places, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(Places, "of_user", staticmethod(lambda: places))
    folder = tmp_path / "library"
    shutil.copytree(LIBRARY, folder)
    checked = CliRunner().invoke(make_app(lambda _: 0), ["library", "check", str(folder)])
    assert checked.exit_code == 0, checked.output
    assert "280 of 280 cards are fine" in checked.output


def test_charts_are_filled_as_far_as_their_numbers_say(cards: list[Entry]) -> None:
    charts, broken = read_charts(LIBRARY)
    assert broken == []
    found = {}
    for file in charts:
        filled = fill(file.chart, file.chart.characters, cards)
        found[file.key] = {
            who: sum(not filled[slot.key, who].missing for slot in file.chart.slots)
            for who in file.chart.characters
        }
    said = tomllib.loads(NUMBERS.read_text("utf-8"))["chart"]
    assert found == {one["ready"]: one["filled"] for one in said}


def test_its_kept_searches_find_something(workspace: Workspace, cards: list[Entry]) -> None:
    kept = read_library_file(LIBRARY).searches
    assert len(kept) == 2
    for search in kept:
        found = workspace.open_libraries.search_in().count(search.text)
        assert 3 <= found < len(cards) / 2, search.name


def test_the_goal_and_its_twin_put_the_hand_to_the_same_place() -> None:
    rig = read_rig(WHOLE / "cast" / "marrow.glb")
    folder = LIBRARY / "Marrow" / "Body" / "Arms"
    easy = read_card(LIBRARY / "Marrow" / "Body" / "Stand easy.foxcard")[0]
    under = blend(rig.rest, bind(easy.pose, rig), 1.0, rig.setting_rules)
    stands = []
    for way in ("joints", "goal"):
        card = read_card(folder / f"Reach for the lamp, {way}.foxcard")[0]
        assert {"joints": "hand_goal_L", "goal": "forearm_L"}[way] not in card.pose.controls
        state = blend(under, bind(card.pose, rig), 1.0, rig.setting_rules)
        stands.append(rig.evaluate(state).nodes)
    rows = [rig.skeleton.names.index(n) for n in ("arm_L", "forearm_L", "hand_L")]
    assert np.allclose(stands[0][rows], stands[1][rows], atol=1e-5)
