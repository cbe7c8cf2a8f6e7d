"""``fox-hand chart`` and charts as contact sheets."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import pytest
from PIL import Image
from typer.testing import CliRunner, Result

from fox_hand.cli.app import make_app
from fox_hand.demo.demo_project import shipped


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    for name in ("CONFIG", "DATA", "STATE", "CACHE"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / name.lower()))
    shutil.copytree(shipped() / "library", tmp_path / "library")
    return tmp_path / "library"


def run(*words: str | Path) -> Result:
    return CliRunner().invoke(make_app(lambda _: 0), [str(w) for w in words])


def test_what_is_missing_is_said_and_ends_with_three(folder: Path) -> None:
    assert run("chart", "check", folder).exit_code == 2  # there are none yet
    assert run("chart", "add", folder, "sonnets").exit_code == 2
    assert run("chart", "add", folder, "hands").exit_code == 0
    assert run("chart", "add", folder, "Emotions").exit_code == 0
    found = run("chart", "check", folder)
    assert found.exit_code == 3
    assert "Hand shapes, Marrow: 8 of 11; missing Thumb up, Grip, Pinch" in found.stdout
    whole = run("chart", "check", folder, "--chart", "emotions", "--character", "marrow")
    assert whole.exit_code == 0 and whole.stdout.strip() == "Emotions, Marrow: 7 of 7"
    assert run("chart", "check", folder, "--chart", "walks").exit_code == 2
    assert run("chart", "check", folder, "--character", "Nobody").exit_code == 2
    facts = json.loads(run("chart", "check", folder, "--chart", "hands", "--json").stdout)
    (marrow,) = facts[0]["characters"]
    assert (marrow["filled"], marrow["missing"]) == (8, ["Thumb up", "Grip", "Pinch"])
    (folder / "charts" / "bad.foxchart.toml").write_text("slots = 3")
    again = run("chart", "check", folder)
    assert again.exit_code == 3 and "bad.foxchart.toml cannot be read" in again.output


def test_ready_charts_are_listed_with_their_source() -> None:
    found = run("chart", "ready")
    assert "Mouth shapes, 12 slots. Visemes 0 to 14 of ISO/IEC 14496-2" in found.stdout
    assert json.loads(run("chart", "ready", "--json").stdout)[0]["key"] == "mouth"
    assert json.loads(run("chart", "schema").stdout)["title"] == "Fox Hand chart, version 1"


def test_a_chart_is_written_as_a_sheet_with_its_gaps(folder: Path, tmp_path: Path) -> None:
    run("chart", "add", folder, "hands")
    out = tmp_path / "hands.png"
    assert run("sheet", folder, "--out", out, "--chart", "hands").exit_code == 0
    with Image.open(out) as picture:
        pixels = picture.convert("RGB")
    size = (1654 - 2 * 96 - 10 * 24) // 11
    row = [pixels.getpixel((96 + n * (size + 24) + size // 2, 192 + 3)) for n in range(11)]
    paper = [sum(abs(a - b) for a, b in zip(p, (251, 248, 242), strict=True)) < 12 for p in row]
    assert [n for n, bare in enumerate(paper) if bare] == [7, 8, 9]  # within the dashes
    assert run("sheet", folder, "--out", tmp_path / "x.pdf", "--chart", "hands").exit_code == 0
    refused = run("sheet", folder, "--out", out, "--chart", "hands", "--find", "fist")
    assert refused.exit_code == 2 and "cannot be used together" in refused.output
