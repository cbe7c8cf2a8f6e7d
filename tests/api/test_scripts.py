"""The scripts of the manual's page, each run as it stands there."""

from __future__ import annotations

import re
import textwrap
from pathlib import Path

import pytest

from fox_hand.api import Library

MANUAL = Path(__file__).parents[2] / "docs" / "manual"
SAYS = {
    "Find cards": "Marrow/Hands Fist 16 grip cross",
    "What a card holds": "finger_index_1_L {'turn.x': 82.0",
    "Put a card on": "'finger_index_1_R': {'turn.x': 57.39",
    "Mix cards, mirror, go half the way": "'mouth_wide_L'",
    "Pose by numbers and capture": "name='Nod down'",
    "Change values and words of many cards": "3\n3\n",
    "Fit a card onto another rig": "67 land, 1 do not",
    "A control rig without a model": "order='ZXY'",
    "What is missing": "Marrow:",
    "Hand cards over": "8 went, 8 came: Fist, Flat",
}


def scripts(page: Path) -> dict[str, str]:
    """The indented blocks of a page by the headings above them."""
    found = re.findall(r"^## (.+)\n\n((?:    .*\n|\n)+)", page.read_text("utf-8"), re.MULTILINE)
    return {title: textwrap.dedent(block).strip() for title, block in found}


@pytest.mark.parametrize("title", SAYS)
def test_a_script_of_the_manual_does_what_it_is_for(
    title: str, work: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code = scripts(MANUAL / "21-scripts.md")[title]
    exec(compile(code, title, "exec"), {"__name__": "__main__"})
    assert SAYS[title] in capsys.readouterr().out
    if title.startswith("Pose"):
        assert Library.open("library").card(work / "library/Marrow/Body/Nod down.foxcard").picture()
    if title.startswith("Change"):
        library = Library.open("library")
        assert len(library.cards("tag:index-straight")) == 8
        fist = library.card(library.cards("fist")[0])
        assert fist.values()["finger_index_1_L"] == {"turn.x": 82.0, "turn.y": 0.0, "turn.z": 0.0}


def test_both_languages_show_the_same_scripts() -> None:
    english, german = (scripts(MANUAL / p) for p in ("21-scripts.md", "de/21-scripts.md"))
    assert list(english) == list(SAYS)
    assert list(english.values()) == list(german.values())
