"""Machines that are set oddly: clocks years off, other languages, folders that cannot be had."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from pathlib import Path

import pytest

from fox_hand.base.system.clock import now_at, written
from fox_hand.session.shots.shot_lock import STALE, ShotLock

ROOT = Path(__file__).parents[1]


def day(folder: Path, years: float, name: str, locale: str) -> dict[str, list[str]]:
    """A start, a card and a saved shot in a process of its own."""
    done = subprocess.run(
        [sys.executable, "-m", "tests.ui.odd_machine", str(folder), str(years), name],
        cwd=ROOT,
        env={**os.environ, "LC_ALL": locale, "LANGUAGE": locale, "QT_QPA_PLATFORM": "offscreen"},
        stdout=subprocess.PIPE,
        check=True,
    )
    return json.loads(done.stdout)


def test_cards_and_shots_are_kept_whatever_the_clock_and_the_language(tmp_path: Path) -> None:
    first = day(tmp_path, -36, "Kept in 1990", "ar_EG.UTF-8")
    second = day(tmp_path, 60, "Kept in 2086", "tr_TR.UTF-8")
    assert "Kept in 1990" in first["after"]
    assert second["before"] == first["after"]  # nothing of what the other clock made is missing
    assert set(second["after"]) == {*first["after"], "Kept in 2086"}
    for one in (first, second):
        assert not one["faults"]
        assert not one["said"]
        assert one["saved"]


def test_without_a_cache_and_a_state_folder_it_works_and_says_so(tmp_path: Path) -> None:
    for name in ("cache", "state"):
        (tmp_path / name).write_text("not a folder")
    found = day(tmp_path, 0, "Kept", "C")
    assert "Kept" in found["after"]
    assert not found["faults"]
    assert not [sentence for sentence in found["said"] if "in vain" in sentence]
    assert any("Nothing can be kept in" in sentence for sentence in found["notices"])


def test_a_colleague_is_seen_although_the_clocks_differ(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    shot = tmp_path / "nf_010.foxshot"
    shot.write_text("{}")
    theirs, mine = ShotLock(shot, "Tomas R."), ShotLock(shot, "Ines B.")
    assert theirs.take() is None
    true_time = time.time
    monkeypatch.setattr(time, "time", lambda: true_time() + 4 * 3600)  # ahead of the share
    found = mine.take()
    assert found is not None
    assert found.who == "Tomas R."
    ago = true_time() - STALE - 5
    os.utime(theirs.file, (ago, ago))
    assert mine.take() is None  # nobody renewed it by the share's own clock


def test_a_date_that_no_calendar_holds(tmp_path: Path) -> None:
    path = tmp_path / "nf_010.foxshot"
    path.write_text("{}")
    for year in (1.0e4, 6.0e4, -1.0e4):
        os.utime(path, (year * 365 * 86400, year * 365 * 86400))
        assert 1900 <= written(path).year <= 9999
    assert abs(now_at(tmp_path) - time.time()) < 60
    assert abs(now_at(tmp_path / "not there") - time.time()) < 60


def test_pictures_are_as_fine_as_the_screen_the_window_has_come_to(tmp_path: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "tests.ui.two_screens", str(tmp_path)],
        cwd=ROOT,
        stdout=subprocess.PIPE,
        timeout=240,
        check=True,
    )
    assert json.loads(done.stdout) == [1.0, 2.0, 1.0]
