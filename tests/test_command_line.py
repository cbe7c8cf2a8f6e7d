"""The command line as people expect it: what it refuses, what it prints, what it never touches."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from typer.testing import CliRunner, Result

from fox_hand.base.places import Places
from fox_hand.cli import NAME, Wish, make_app
from fox_hand.core.maths.rotations import angle_between
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card
from fox_hand.library.store.store import Library
from tests.conftest import MARROW
from tests.glb import moving

DEMO = shipped()
FIST = DEMO / "library" / "Marrow" / "Hands" / "Fist.foxcard"
SHOT = DEMO / "shots" / "nf_030.foxshot"  # four characters


@pytest.fixture
def folder(tmp_path: Path, places: Places, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A copy of the demo's library, and a user's folders of its own."""
    monkeypatch.setattr(Places, "of_user", staticmethod(lambda: places))
    made = tmp_path / "poses"
    shutil.copytree(DEMO / "library", made)
    return made


asked: list[Wish] = []


def run(*words: str | Path, given: str | bytes | None = None) -> Result:
    asked.clear()
    app = make_app(lambda wish: asked.append(wish) or 0)
    return CliRunner().invoke(app, [str(w) for w in words], input=given, prog_name=NAME)


def told(*words: str | Path) -> Any:
    done = run(*words, "--json")
    return json.loads(done.stdout)


def hero(folder: Path) -> Path:
    """A copy of Marrow as somebody has her."""
    path = folder / "hero.glb"
    shutil.copy(MARROW, path)
    shutil.copy(MARROW.with_suffix(".foxrig.json"), folder / "hero.foxrig.json")
    return path


def test_no_command_writes_over_what_it_reads(tmp_path: Path) -> None:
    rig = hero(tmp_path)
    linked, hard = tmp_path / "link.glb", tmp_path / "hard.glb"
    linked.symlink_to(rig)
    hard.hardlink_to(rig)
    motion = moving(tmp_path / "nod.glb")
    shot = tmp_path / "one.foxshot"
    text = (DEMO / "shots" / "nf_010.foxshot").read_text()
    shot.write_text(text.replace("../cast/marrow.glb", "hero.glb"))
    card = tmp_path / "card.png"
    shutil.copy(FIST, card)
    before = {path: path.read_bytes() for path in (rig, motion, shot, card)}
    for out in (rig, linked, hard):
        for words in (
            ("apply", FIST, rig, "-o", out),
            ("apply", FIST, rig, "-o", out, "--frame", "1"),
            ("convert", shot, out),
            ("render", rig, "-o", out.with_suffix(".glb")),
        ):
            done = run(*words)
            assert done.exit_code == 1, words
    assert "not written over" in run("apply", FIST, linked, "-o", rig).output
    assert run("convert", motion, motion).exit_code == 1
    assert run("convert", shot, "-o", rig).exit_code == 1
    assert {path: path.read_bytes() for path in before} == before
    assert linked.is_symlink()


def test_an_animation_goes_back_into_its_own_file_only_when_told(tmp_path: Path) -> None:
    path = moving(tmp_path / "nod.glb")
    rig = read_rig(path)
    pose = told("capture", path, "--frame", "7")
    assert pose["controls"]
    library = Library.create(tmp_path / "mine", "Mine")
    taken = run("capture", path, "--frame", "7", "--library", library.folder, "--name", "Nod")
    card = Path(taken.stdout.strip())
    words = ("apply", card, path, "--frame", "1", "--until", "3", "--blend", "0")
    assert run(*words, "-o", path).exit_code == 1
    assert run("apply", card, path, "--in-place").exit_code == 2  # its pose would become its rest
    assert run(*words, "--in-place").exit_code == 0
    after = read_performance(path)
    row = after.rig.control_row["head"]
    wanted = read_card(card)[0].pose.controls["head"].turn
    assert angle_between(after.states.turn[1, row], np.array(wanted)) < 1e-4
    assert np.allclose(after.rig.skeleton.rest_world, rig.skeleton.rest_world)


OUT_OF_RANGE = [
    ("apply", FIST, MARROW, "-o", "x.glb", "--amount", "700"),
    ("apply", FIST, MARROW, "-o", "x.glb", "--amount", "nan"),
    ("apply", FIST, MARROW, "-o", "x.glb", "--frame", "0"),
    ("apply", FIST, MARROW, "-o", "x.glb", "--frame", "9", "--until", "3"),
    ("apply", FIST, MARROW, "-o", "x.glb", "--blend", "-1"),
    ("apply", FIST, MARROW),
    ("convert", SHOT, "x.glb", "--rate", "nan"),
    ("convert", SHOT, "x.glb", "--rate", "-5"),
    ("convert", SHOT, "x.glb", "--rate", "inf"),
    ("render", SHOT, "-o", "x.png", "--frame", "9999"),
    ("render", SHOT, "-o", "x", "--frames", "1-9999"),
    ("render", SHOT, "-o", "x.png", "--turntable", "-1"),
    ("library", "tag", "poses", "--all"),
    ("library", "tag", "poses", "--add", "new"),
    ("library", "approve", "poses", "--all"),
    ("library", "move", "poses", "--all"),
    ("library", "take-in", "poses", "x.foxpack", "--mine", "--theirs"),
    ("capture", SHOT, "--name", "Him"),
]


@pytest.mark.parametrize("words", OUT_OF_RANGE, ids=lambda w: " ".join(map(str, w[3:] or w)))
def test_what_cannot_be_meant_is_refused_and_nothing_is_written(
    words: tuple[str | Path, ...], folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    before = sorted(p for p in tmp_path.rglob("*") if "home" not in p.parts)
    done = run(*words)
    assert done.exit_code == 2, done.output
    assert "Traceback" not in done.output
    assert sorted(p for p in tmp_path.rglob("*") if "home" not in p.parts) == before


@pytest.mark.parametrize("words", [("capture", "--frame", "9999"), ("apply", "--frame", "9999")])
def test_a_frame_beyond_the_last_is_refused(words: tuple[str, ...], tmp_path: Path) -> None:
    path = moving(tmp_path / "nod.glb")
    more = (path, "--json") if words[0] == "capture" else (FIST, path, "--json")
    done = run(words[0], *more, *words[1:])
    assert done.exit_code == 1
    assert "is not one of them" in done.output


@pytest.mark.parametrize(
    "find", ["side:lefft", "sidee:left", "fisst", "fits:some", "region:hand5", "new:soon"]
)
def test_a_filter_that_is_not_understood_does_nothing(find: str, folder: Path) -> None:
    """The nearest cards are not the ones that were meant."""
    before = {p: p.read_bytes() for p in folder.rglob("*.foxcard")}
    commands: list[tuple[str | Path, ...]] = [
        ("library", "tag", folder, "--find", find, "--add", "seen"),
        ("library", "pack", folder, "-o", folder / "x.foxpack", "--find", find),
        ("sheet", folder, "-o", folder / "x.png", "--find", find),
    ]
    if find != "fits:some":
        commands.append(("library", "reshoot", folder, "--rig", MARROW, "--find", find))
    for words in commands:
        done = run(*words)
        assert done.exit_code == 2, done.output
        assert "Nothing was done" in done.output
    assert {p: p.read_bytes() for p in folder.rglob("*.foxcard")} == before
    assert not list(folder.glob("x.*"))


def test_cards_are_tagged_approved_and_moved_in_bulk(folder: Path) -> None:
    hands = told("library", "search", folder, "region:hands")
    assert len(hands) > 5
    tag = run("library", "tag", folder, "--find", "region:hands", "--add", "#rig two")
    assert f"{len(hands)} cards tagged" in tag.output
    assert len(told("library", "search", folder, "tag:two")) == len(hands)
    again = run("library", "tag", folder, "--find", "region:hands", "--add", "rig two")
    assert "0 cards tagged" in again.output
    two = "\n".join(card["file"] for card in hands[:2])
    app = make_app(lambda _: 0)
    words = ["library", "approve", str(folder), "-", "--by", "Ines"]
    assert "2 cards approved" in CliRunner().invoke(app, words, input=two + "\n").output
    assert read_card(Path(hands[0]["file"]))[0].approved_by == "Ines"
    open_ = run("library", "approve", folder, hands[0]["file"], "--unlock")
    assert "1 card unlocked" in open_.output
    moved = run("library", "move", folder, "--find", "tag:two", "--to", "Crew/Hands")
    assert moved.exit_code == 1
    assert "is approved by Ines and locked" in moved.output
    assert Path(hands[1]["file"]).exists()  # it stays where it is, the others went
    run("library", "approve", folder, hands[1]["file"], "--unlock")
    moved = run("library", "move", folder, "--find", "tag:two", "--to", "Crew/Hands")
    assert moved.exit_code == 0
    assert len(list((folder / "Crew" / "Hands").glob("*.foxcard"))) == len(hands)
    foreign = run("library", "tag", folder, FIST, "--add", "x")
    assert foreign.exit_code == 1
    assert "no card of this library" in foreign.output
    Library(folder, by=lambda: "Ines").set_approvers(("Ines",))
    fist = next((folder / "Crew" / "Hands").glob("*.foxcard"))
    refused = run("library", "approve", folder, fist, "--by", "Tomas")
    assert refused.exit_code == 1
    assert "Only Ines may approve" in refused.output
    assert "1 card approved" in run("library", "approve", folder, fist, "--by", "Ines").output
    assert run("library", "approve", folder, fist, "--unlock").exit_code == 1
    run("library", "approve", folder, fist, "--unlock", "--by", "Ines")
    assert not read_card(fist)[0].locked
    assert run("library", "new", folder).exit_code == 1
    assert run("library", "new", folder.parent / "more", "--name", "More").exit_code == 0
    assert Library(folder.parent / "more").name == "More"


def test_facts_come_as_json_in_the_rigs_own_terms(folder: Path, tmp_path: Path) -> None:
    both = told("rig", "inspect", MARROW, MARROW.with_name("pim.glb"))
    assert [rig["name"] for rig in both] == ["Marrow", "Pim"]
    assert {c["name"] for c in both[0]["controls"]} >= {"arm_L", "finger_index_1_L"}
    card = told("card", "show", FIST)
    assert card["controls"]["finger_index_2_L"]["turn.x"] == pytest.approx(98, abs=30)
    posed = told("apply", FIST, MARROW, "--side", "other", "--amount", "50")
    assert set(posed["controls"]["finger_index_2_R"]) == {"turn.x", "turn.y", "turn.z"}
    out = tmp_path / "posed.glb"
    run("apply", FIST, MARROW, "-o", out, "--side", "other", "--amount", "50")
    rig = read_rig(out)  # written in a pose: its nodes are what was printed
    assert rig.filed is not None
    node = rig.skeleton.names.index("finger_index_2_R")
    assert posed["nodes"]["finger_index_2_R"]["rotation"] == pytest.approx(
        rig.filed.rotation[node].tolist(), abs=1e-6
    )
    assert told("library", "check", folder)["cards"] == 28
    missing = run("apply", FIST, MARROW.with_name("gull.glb"), "--json")
    assert missing.exit_code == 1


def test_every_character_of_a_shot_is_converted_or_named(tmp_path: Path) -> None:
    done = run("convert", SHOT, tmp_path / "out" / "tickets.glb")
    assert done.exit_code in (0, 3)
    prefixes = sorted(p.stem.removeprefix("tickets_") for p in (tmp_path / "out").glob("*.glb"))
    assert len(prefixes) == 4
    assert {"marrow", "quill"} <= set(prefixes)
    lost = tmp_path / "lost.foxshot"
    lost.write_text(SHOT.read_text().replace("pim.glb", "pimm.glb"))
    for name in ("marrow", "quill"):
        (tmp_path.parent / "cast").mkdir(exist_ok=True)
        for kind in (".glb", ".foxrig.json"):
            shutil.copy(DEMO / "cast" / f"{name}{kind}", tmp_path.parent / "cast")
    several = run("convert", lost, SHOT, "-o", tmp_path / "some.glb")
    assert several.exit_code == 2
    partly = run("convert", lost, "-o", tmp_path / "some.glb")
    assert partly.exit_code == 3
    assert partly.output.count("pimm.glb") >= 1
    assert len(list(tmp_path.glob("some_*.glb"))) == 2
    check = run("shot", "check", lost, SHOT)
    assert check.exit_code == 1
    assert "pimm.glb" in check.output
    assert f"{SHOT}\tfine" in check.output
    nobody = tmp_path / "nobody.foxshot"
    nobody.write_text(SHOT.read_text().replace("../cast/", "../nowhere/"))
    for words in (("convert", nobody, tmp_path / "n.glb"), ("render", nobody, "-o", "n.png")):
        named = run(*words)
        assert named.exit_code == 1
        assert "nowhere/quill.glb" in named.output


def test_a_project_is_checked_whole(tmp_path: Path) -> None:
    made = tmp_path / "ferry"
    shutil.copytree(DEMO, made)
    assert run("project", "check", made).exit_code == 0
    (made / "cast" / "pim.glb").unlink()
    problems = {k: v for k, v in told("project", "check", made).items() if v}
    assert str(made / "cast" / "pim.glb") in problems
    assert str(made / "shots" / "nf_020.foxshot") in problems
    assert run("project", "check", tmp_path).exit_code == 1


@pytest.mark.parametrize(
    ("what", "field"),
    [
        ("cast/pim.glb", "rig"),
        ("shots/nf_010.foxshot", "shot"),
        ("library/Marrow/Hands/Fist.foxcard", "card"),
        ("library", "library"),
        ("library/library.toml", "library"),
        (".", "project"),
        ("project.toml", "project"),
    ],
)
def test_everything_of_ones_own_can_be_opened(
    what: str, field: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(DEMO)
    assert run("open", what).exit_code == 0
    path = getattr(asked[0], field)
    assert path.is_absolute()
    assert path.exists()
    if field == "card":
        assert asked[0].library == DEMO / "library"


def test_what_cannot_be_opened_is_said_before_a_window_comes(tmp_path: Path) -> None:
    (tmp_path / "a.txt").touch()
    odd = tmp_path / b"f\xfcchse".decode("utf-8", "surrogateescape") / "a.glb"
    odd.parent.mkdir()
    odd.touch()
    for what in (tmp_path / "none.glb", tmp_path / "a.txt", tmp_path, odd):
        done = run("open", what)
        assert done.exit_code == 1
        assert not asked
        assert len(done.output.strip().splitlines()) == 1


def program(*words: str | Path, **more: Any) -> subprocess.CompletedProcess[bytes]:
    """The real program, in a process of its own."""
    command = [sys.executable, "-m", "fox_hand", *(str(w) for w in words)]
    return subprocess.run(command, capture_output=True, check=False, **more)


def test_it_reads_and_writes_pipes(tmp_path: Path) -> None:
    card = FIST.read_bytes()
    shown = program("card", "show", "-", "--json", input=card)
    assert json.loads(shown.stdout)["name"] == "Fist"
    glb = program("apply", "-", MARROW, "-o", "-", input=card)
    assert glb.stdout[:4] == b"glTF"
    out = tmp_path / "a.glb"
    out.write_bytes(glb.stdout)
    assert read_rig(out).rest_from == "skin"
    png = program("render", MARROW, "-o", "-", "--size", "64x64")
    assert png.stdout.startswith(b"\x89PNG")
    listed = program("library", "list", DEMO / "library", "-q")
    assert listed.stderr == b""
    assert b"\x1b" not in listed.stdout + program("--help").stdout


def test_help_names_the_program_and_its_short_options() -> None:
    said = program("library", "tag", "-h").stdout.decode()
    assert said.startswith("Usage: fox-hand library tag")
    assert "-q, --quiet" in said
    assert "│" not in said
    completion = program(env={**os.environ, "_FOX_HAND_COMPLETE": "source_bash"}).stdout.decode()
    assert "complete -o default -F" in completion
    words = {"_FOX_HAND_COMPLETE": "complete_bash", "COMP_WORDS": "fox-hand con", "COMP_CWORD": "1"}
    assert program(env={**os.environ, **words}).stdout.split() == [b"convert"]


def test_a_fault_of_its_own_is_told_in_a_sentence_and_written_down(tmp_path: Path) -> None:
    code = (
        "import fox_hand.__main__ as m, sys\n"
        "def broken(path, *_): raise RuntimeError(f'no {path!r} in {secret}')\n"
        "secret = sys.argv[1]\n"
        "import fox_hand.interchange.readers as r\n"
        "r.read_rig = broken\n"
        f"sys.argv = ['fox-hand', 'rig', 'inspect', {str(MARROW)!r}]\n"
        "m.main()"
    )
    state = {**os.environ, "XDG_STATE_HOME": str(tmp_path)}
    done = subprocess.run(
        [sys.executable, "-c", code, "/home/ines/secret.glb"],
        capture_output=True,
        text=True,
        check=False,
        env=state,
    )
    assert done.returncode == 70
    assert done.stderr.count("\n") == 1
    assert "RuntimeError" not in done.stderr
    log = (tmp_path / "fox-hand" / "log" / "fox-hand.log").read_text()
    assert "RuntimeError" in log
    assert "cli/commands/rig_commands.py" in log
    assert "secret.glb" not in log
    assert "ines" not in log.replace("lines", "")
