"""The command line: libraries without a window, and the demo's stand-ins."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import pytest
from PIL import Image
from typer.testing import CliRunner, Result

from fox_hand.base.places import Places
from fox_hand.cli import Wish, make_app
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.gltf import read_rig as read_rig_of
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.rig_words import RigWords
from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.store import moves
from fox_hand.library.store.conflicts import set_aside
from fox_hand.library.store.moves import current
from fox_hand.library.store.store import Library
from tests.conftest import MARROW
from tests.small_demo import WHOLE
from tests.ui.exchange.test_performance import recorded
from tests.vrm import moving, vrm


@pytest.fixture
def folder(tmp_path: Path, places: Places, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A copy of the demo's library, and a user's folders of its own."""
    monkeypatch.setattr(Places, "of_user", staticmethod(lambda: places))
    made = tmp_path / "poses"
    shutil.copytree(shipped() / "library", made)
    return made


def run(*words: str | Path) -> Result:
    asked: list[Wish] = []
    app = make_app(lambda wish: asked.append(wish) or 0)
    return CliRunner().invoke(app, [str(w) for w in words])


def test_listing_and_search_say_what_the_window_says(folder: Path) -> None:
    listed = run("library", "list", folder)
    assert listed.exit_code == 0
    lines = [line.split("\t") for line in listed.stdout.splitlines() if "\t" in line]
    assert len(lines) == 28
    assert lines[0][:5] == ["Marrow/Hands", "Fist", "hands", "left", "16"]
    assert lines[0][7] == "#grip #cross"
    found = run("library", "search", folder, "hel", "region:face")
    assert "Glad" in found.stdout
    assert "1 found" in found.output
    assert run("library", "search", folder, "qqqq").exit_code == 1
    fits = run("library", "search", folder, "fits:all", "--rig", MARROW)
    assert "28 found" in fits.output
    nowhere = run("library", "list", folder / "nowhere")
    assert nowhere.exit_code == 1
    assert "cannot be reached" in nowhere.output


def test_check_names_everything_that_needs_a_person(folder: Path) -> None:
    assert run("library", "check", folder).exit_code == 0
    library = Library(folder)
    hands = folder / "Marrow" / "Hands"
    fist, picture = read_card(hands / "Fist.foxcard")
    set_aside(library, fist.identity, card_bytes(fist, picture))
    moves.copy(library, hands / "Fox.foxcard", "Marrow/Hands")
    (hands / "Flat.foxcard").write_bytes((hands / "Flat.foxcard").read_bytes()[:7000])
    tense = hands / "Tense.foxcard"
    card, picture = read_card(tense)
    moves.store_over(library, current(library, tense), card, picture)
    tense.unlink()  # with a file manager, say
    left = library.own / ".abc.part"  # in sheets they go by themselves
    left.write_bytes(b"half")
    os.utime(left, (1, 1))
    found = run("library", "check", folder, "--rig", MARROW)
    assert found.exit_code == 1
    kinds = {line.split("\t")[0] for line in found.stdout.splitlines() if "\t" in line}
    assert kinds == {"damaged", "conflict", "twins", "orphan", "leftover"}
    assert "26 of 28 cards are fine" in found.output


def test_reindex_makes_the_index_anew(folder: Path, places: Places) -> None:
    run("library", "list", folder)
    index = next((places.cache / "libraries").glob("*.sqlite"))
    assert index.stat().st_size > 0
    assert "28 cards in 4 sheets" in run("library", "reindex", folder).stdout


def test_pictures_are_taken_again_in_bulk(folder: Path) -> None:
    path = folder / "Marrow" / "Hands" / "Fist.foxcard"
    card, before = read_card(path)
    taken = run("library", "reshoot", folder, "--rig", MARROW, "--find", "fist", "--style", "clay")
    assert "1 picture taken, 0 not" in taken.output
    again, picture = read_card(path)
    assert picture != before
    assert (again.pose, again.style, again.revision) == (card.pose, "clay", card.revision + 1)
    assert len(Library(folder).versions(card.identity)) == 1
    wrong = run("library", "reshoot", folder, "--rig", MARROW, "--style", "oil")
    assert wrong.exit_code == 1
    assert "no way to draw" in wrong.output


def test_the_colleague_and_the_share_do_what_they_say(folder: Path, tmp_path: Path) -> None:
    worked = run("demo", "colleague", "--library", folder, "--every", "0", "--deeds", "8")
    assert worked.exit_code == 0
    assert worked.stdout.count("Tomas R. added") == 2
    assert run("library", "check", folder).output.count("damaged") == 0
    share = run(
        "demo", "share", tmp_path / "s", "--flaky", "--there", "0", "--away", "0", "--rounds", "2"
    )
    assert "is away" in share.stdout
    assert "can only be read" in share.stdout
    assert Library(tmp_path / "s").name == "Studio share"


DEMO = shipped()
CLIP = DEMO / "library" / "Marrow" / "Clips" / "Wave loop.foxcard"
FIST = DEMO / "library" / "Marrow" / "Hands" / "Fist.foxcard"


def test_motion_goes_from_shots_and_clips_into_files_and_back(folder: Path, tmp_path: Path) -> None:
    shot = DEMO / "shots" / "nf_010.foxshot"
    glb, bvh = tmp_path / "shot.glb", tmp_path / "shot.bvh"
    assert run("convert", shot, glb).exit_code == 0
    lossy = run("convert", shot, bvh, "--rate", "12")
    assert lossy.exit_code == 3  # written, but not the face
    assert "no shapes of the face" in lossy.output
    back = read_performance(bvh)
    assert (len(back), round(back.rate)) == (48, 12)
    assert len(read_performance(glb)) == 96
    loop = tmp_path / "loop.glb"
    assert run("convert", CLIP, loop).exit_code == 1
    assert run("convert", CLIP, loop, "--rig", MARROW, "--alone").exit_code == 0
    again = tmp_path / "again.bvh"
    assert run("convert", glb, again, "--rig", MARROW).exit_code in (0, 3)
    nowhere = run("convert", tmp_path / "no.foxshot", glb)
    assert nowhere.exit_code == 1
    assert "cannot be read" in nowhere.output
    assert run("convert", shot, tmp_path / "shot.xyz").exit_code == 1


def test_a_clip_is_fitted_to_another_houses_rig_and_what_stays_out_is_an_exit_code(
    folder: Path, tmp_path: Path
) -> None:
    quill, loop = DEMO / "cast" / "quill.glb", tmp_path / "loop.glb"
    clip = folder / "Marrow" / "Clips" / CLIP.name
    assert run("convert", clip, loop, "--rig", quill).exit_code == 0
    played = read_performance(loop)
    hand = played.rig.skeleton.names.index("LeftHand")
    height = played.rig.height
    high = played.rig.evaluate(played.states).nodes[:, hand, 1, 3] / height
    rest = played.rig.evaluate(played.rig.rest).nodes[hand, 1, 3] / height
    assert high.min() > rest  # it waves above the shoulder
    assert high.max() > rest + 0.1
    # without a library that knows names, the arm lands by its roles
    lone = shutil.copy(CLIP, tmp_path / "lone.foxcard")
    assert run("convert", lone, loop, "--rig", quill).exit_code == 0
    alone = read_performance(loop)
    assert alone.rig.evaluate(alone.states).nodes[:, hand, 1, 3] / height == pytest.approx(high)
    look = shutil.copy(
        WHOLE / "library" / "Marrow" / "Clips" / "Look round.foxcard", tmp_path / "look.foxcard"
    )
    drawn = ("render", look, "-o", tmp_path / "a.png", "--size", "64x64")
    for words in (("convert", look, loop), drawn):
        partly = run(*words, "--rig", DEMO / "cast" / "gull.glb")
        assert partly.exit_code == 3
        assert "Not on Gull: eye_L, eye_R" in partly.output


def test_cards_are_put_on_files_and_taken_from_them(folder: Path, tmp_path: Path) -> None:
    out = tmp_path / "fist.glb"
    assert run("apply", FIST, MARROW, "-o", out, "--side", "both", "--amount", "60").exit_code == 0
    rig, posed = read_rig(MARROW), read_rig_of(out, words=RigWords(rest_from="nodes"))
    whole = read_card(FIST)[0].pose.controls["finger_index_2_L"].turn
    for side in "LR":
        node = rig.skeleton.names.index(f"finger_index_2_{side}")
        other = posed.skeleton.names.index(f"finger_index_2_{side}")
        angle = angle_between(rig.skeleton.rotation[node], posed.skeleton.rotation[other])
        wanted = 0.6 * angle_between([0, 0, 0, 1], whole)
        assert float(angle) == pytest.approx(float(wanted), abs=1e-4)
    motion, laid = tmp_path / "shot.glb", tmp_path / "laid.glb"
    run("convert", DEMO / "shots" / "nf_010.foxshot", motion)
    done = run("apply", FIST, motion, "-o", laid, "--frame", "50", "--until", "60", "--blend", "5")
    assert done.exit_code in (0, 3)
    before, after = read_performance(motion), read_performance(laid)
    row = before.rig.control_row["finger_index_2_L"]
    gone = angle_between(before.states.turn[:, row], after.states.turn[:, row])
    changed = [i + 1 for i, angle in enumerate(gone) if angle > 1e-3]
    assert (changed[0], changed[-1]) == (45, 65)
    assert angle_between(after.states.turn[54, row], whole) < 1e-4
    taken = run(
        "capture",
        DEMO / "shots" / "nf_010.foxshot",
        "--frame",
        "74",
        "--library",
        folder,
        "--sheet",
        "Marrow/Body",
        "--name",
        "Cheer",
    )
    assert taken.exit_code == 0
    card, picture = read_card(folder / "Marrow" / "Body" / "Cheer.foxcard")
    assert picture is not None
    assert (card.source, card.source_frame) == ("nf_010", 74)
    assert "arm_R" in card.pose.controls


def test_pictures_sheets_and_packs_from_the_command_line(folder: Path, tmp_path: Path) -> None:
    png, gif, frames = tmp_path / "a.png", tmp_path / "a.gif", tmp_path / "frames"
    small = ("--size", "96x96")
    assert run("render", DEMO / "shots" / "nf_010.foxshot", "-o", png, "--frame", "30", *small)
    assert Image.open(png).size == (96, 96)
    assert run("render", CLIP, "-o", gif, "--rig", MARROW, *small).exit_code == 0
    moving = Image.open(gif)
    total = 0
    for frame in range(moving.n_frames):
        moving.seek(frame)
        total += moving.info["duration"]
    assert total == pytest.approx(21 * 1000 / 24, abs=10)
    turn = run("render", MARROW, "-o", frames, "--turntable", "3", *small)
    assert turn.exit_code == 0
    assert len(list(frames.glob("*.png"))) == 3
    assert run("render", MARROW, "-o", tmp_path / "a.bmp", *small).exit_code == 1
    pdf = tmp_path / "cards.pdf"
    assert run("sheet", folder, "-o", pdf, "--find", "kind:clip").exit_code == 0
    assert pdf.read_bytes().startswith(b"%PDF")
    assert run("sheet", folder, "-o", tmp_path / "cards.txt").exit_code == 1
    pack, mine = tmp_path / "clips.foxpack", Library.create(tmp_path / "mine", "Mine")
    assert "7 cards" in run("library", "pack", folder, "-o", pack, "--find", "kind:clip").output
    assert run("library", "take-in", mine.folder, pack, "--look").output.count("new\t") == 7
    assert not list(mine.folder.rglob("*.foxcard"))
    assert run("library", "take-in", mine.folder, pack).exit_code == 0
    assert len(list(mine.folder.rglob("*.foxcard"))) == 7


def test_a_captured_fist_is_found_as_a_left_hand(folder: Path, tmp_path: Path) -> None:
    """As in the window: where most of it is, and on which side."""
    fist = folder / "Marrow" / "Hands" / "Fist.foxcard"
    made, library = tmp_path / "fist.glb", tmp_path / "own"
    assert run("apply", fist, MARROW, "-o", made).exit_code == 0
    assert run("library", "new", library).exit_code == 0
    assert run("capture", made, "--library", library, "--name", "My fist").exit_code == 0
    card = read_card(library / "My fist.foxcard")[0]
    assert (card.region, card.side) == (Region.HANDS, "left")
    found = run("library", "search", library, "region:hands", "side:left")
    assert "My fist" in found.output


def test_a_library_that_is_away_keeps_nothing_waiting(tmp_path: Path) -> None:
    motion = next((shipped() / "performance").iterdir())
    away = tmp_path / "away"
    said = run("capture", motion, "--rig", MARROW, "--library", away, "--name", "P", "--frame", "9")
    assert said.exit_code == 1
    assert "cannot be reached" in said.output and "wait" not in said.output
    assert not away.exists()


def test_a_recording_of_others_is_laid_on_a_character_and_what_stays_out_is_an_exit_code(
    tmp_path: Path,
) -> None:
    quill, out = shipped() / "cast" / "quill.glb", tmp_path / "out.glb"
    walk = recorded(tmp_path, "walk")
    whole = run("convert", walk, out, "--rig", quill)
    assert whole.exit_code == 0
    assert "walk does not say its unit; centimetres were taken" in whole.output
    assert read_performance(out).rate == pytest.approx(48.0)
    slow = run("convert", walk, out, "--rig", quill, "--rate", "12", "--unit", "metres")
    assert slow.exit_code == 0  # the unit changes nothing: the legs say how far it goes
    assert "unit" not in slow.output
    assert (read_performance(out).rate, len(read_performance(out))) == (12.0, 41)
    partly = run("convert", recorded(tmp_path, "sit", prop=True), out, "--rig", quill)
    assert partly.exit_code == 3
    assert "Not on Quill: cap:lamp." in partly.output
    missing = run("convert", out, tmp_path / "x.bvh", "--animation", "run")
    assert missing.exit_code == 1
    assert "has no animation run" in missing.output
    assert not (tmp_path / "x.bvh").exists()


def test_all_a_file_holds_becomes_cards(tmp_path: Path) -> None:
    library = tmp_path / "own"
    assert run("library", "new", library).exit_code == 0
    waves = moving(tmp_path / "waves.glb", MARROW)
    said = run("capture-all", waves, "--rig", MARROW, "--library", library)
    assert said.exit_code == 0
    assert len(list((library / "Marrow" / "waves").glob("*.foxcard"))) == 3
    stranger = vrm(tmp_path / "stranger.vrm")
    where = ("--library", library, "--sheet", "Faces")
    assert run("capture-all", stranger, "--expressions", *where).exit_code == 0
    names = {p.stem for p in (library / "Faces").glob("*.foxcard")}
    assert names >= {"Happy", "Aa", "Neutral"}
    none = run("capture-all", MARROW, "--expressions", *where)
    assert none.exit_code == 1
    assert "no expressions" in none.output
