"""Every screen in other languages: nothing is left untranslated, nothing is cut without a way to
read it, and choosing a language opens the window anew in it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from fox_hand.base.language import CHOSEN
from fox_hand.session.runtime.settings import settings_path
from tests.ui.conftest import Hand

ROOT = Path(__file__).parents[2]


@pytest.mark.parametrize("language", ["qpl", "de"])
def test_every_screen_speaks_another_language(language: str) -> None:
    """Stretched by a third and read from the right, and German."""
    done = subprocess.run(
        [sys.executable, "-m", "tests.ui.every_screen"],
        cwd=ROOT,
        env={**os.environ, CHOSEN: language, "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        timeout=280,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-2000:]
    found = json.loads(done.stdout.splitlines()[-1])
    assert found["cut"] == {}
    if language != "de":  # whose words have no mark that tells them from names
        assert found["plain"] == {}


def test_a_language_is_chosen_in_the_preferences(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is kept, and the window opens anew where it was chosen."""
    monkeypatch.delenv(CHOSEN)
    opened: list[bool] = []
    hand.window.preference_effects._restart = lambda: opened.append(True)
    hand.window.screens.show_preferences("Look")
    field = hand.window.screens.preferences.look.language
    hand.click(field, field.rect_of("de").center())
    kept = json.loads(settings_path(hand.workspace.places).read_bytes())
    assert kept["language"] == "de" and kept["interface_before"] == kept["interface"]
    assert opened == [True]
    hand.click(field, field.rect_of("en").center())
    assert opened == [True]  # it is what is spoken already
