"""From what is posed to a card: how it begins, its words, where it goes, how it is drawn."""

from __future__ import annotations

import io
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.pose.sides import Sides
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Quality
from fox_hand.library.format.container import read_card, read_motion, read_picture
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.capture_controller import CaptureState
from fox_hand.session.capturing.card_framing import (
    framed,
    in_the_middle,
    on_ground,
    rows_of,
    shot_of,
    worn,
)
from fox_hand.session.capturing.reshooting import reshot
from fox_hand.session.figures.channels import turned_about_own_axis
from fox_hand.session.figures.figure import Figure
from tests.drawn import FlatPictures
from tests.session.conftest import entry


def actor_of(workspace: Workspace) -> Figure:
    assert workspace.actor is not None
    return workspace.actor


@pytest.fixture
def drawing(workspace: Workspace) -> FlatPictures:
    made = FlatPictures()
    workspace.capturing.draw_with(made)
    return made


def turn_head(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    row = actor.rig.control_row["head"]
    workspace.apply("Head", turned_about_own_axis(actor.rig, actor.state, [row], 1, 0.4))


def test_why_nothing_can_be_captured_is_told(places: Places, workspace: Workspace) -> None:
    empty = Workspace(Places.under(places.data / "other"))
    told: list[str] = []
    empty.capturing.told.connect(told.append)
    empty.capturing.ask()
    empty.open_rig(actor_of(workspace).path)
    empty.capturing.ask()
    assert told == [
        "There is no figure on the stage yet. Open one first.",
        "No library is open. Make one in the menu, then capture.",
    ]
    assert empty.capturing.draft is None and empty.capturing.begin() is not None
    place, capturing = workspace.open_libraries.places[0], workspace.capturing
    capturing.told.connect(told.append)
    place.writable = False
    capturing.ask()
    assert told[-1].startswith(f"{place.name} can only be read by you.")
    place.writable = True
    capturing.ask_clip((1.0, 20.0))
    assert told[-1].startswith("Nothing moves between frames 1 and 20.")
    assert capturing.draft is None and capturing.begin_clip((1.0, 20.0)) is None
    capturing.ask()
    assert capturing.draft is not None


def test_a_draft_knows_where_it_is_from_and_who_signs(workspace: Workspace, tmp_path: Path) -> None:
    workspace.settings.author, workspace.settings.licence = "Ines", "CC0"
    workspace.shots.save(tmp_path / "nf_070.foxshot")
    workspace.go(12.0)
    turn_head(workspace)
    draft = workspace.capturing.begin()
    assert draft is not None
    assert (draft.author, draft.licence, draft.sheet) == ("Ines", "CC0", "Marrow/Face")
    assert draft.source_words == "from nf_070, frame 12"
    heard: list[int] = []
    draft.stands.connect(lambda: heard.append(1))
    workspace.go(15.0)  # the strip was moved: the draft follows
    assert draft.taken_frame == 15.0 and heard
    draft.author = "Mara"
    draft.name = "Turned"
    workspace.capturing.save(Camera())
    assert workspace.settings.author == "Mara" and workspace.capturing.state is CaptureState.NONE
    card = read_card(entry(workspace, "Turned").path)[0]
    assert (card.source, card.source_frame, card.author) == ("nf_070", 15.0, "Mara")
    workspace.go(2.0)
    assert len(heard) == 1 or draft.taken_frame == 15.0  # it is over


def test_what_is_put_on_becomes_a_card_of_exactly_that(workspace: Workspace) -> None:
    capturing = workspace.capturing
    workspace.applying.put_on(entry(workspace, "Glad"))
    mix = workspace.mix
    assert mix is not None
    mix.set_amount(0.7)
    mix.set_side(Sides.CAPTURED)
    ids = set(mix.channel_ids)
    capturing.ask_of(mix)
    draft = capturing.draft
    assert draft is not None and workspace.mix is None
    assert draft.name == "Glad 70 %" and draft.tags == entry(workspace, "Glad").tags
    assert set(draft.channel_ids) == ids and draft.exact and draft.sheet == "Marrow/Face"
    capturing.cancel()
    for name in ("Glad", "Fist"):
        workspace.applying.add(entry(workspace, name))
    mix = workspace.mix
    assert mix is not None
    capturing.ask_of(mix)
    assert capturing.draft is not None
    assert (capturing.draft.name, capturing.draft.tags) == ("Glad and Fist", ())
    capturing.cancel()
    workspace.applying.put_on(entry(workspace, "Sad"))
    assert workspace.mix is not None
    capturing.ask_of(workspace.mix)
    assert capturing.draft is not None and capturing.draft.name == "Sad"


def test_stored_over_a_card_keeps_its_place_and_its_identity(workspace: Workspace) -> None:
    before = entry(workspace, "Crouch")
    pose = read_card(before.path)[0].pose
    turn_head(workspace)
    draft = workspace.capturing.begin(over=before)
    assert draft is not None and draft.name == "Crouch"
    workspace.capturing.save(Camera())
    assert workspace.history.undo_label == "Store over Crouch"
    after = entry(workspace, "Crouch")
    assert (after.path, after.identity) == (before.path, before.identity)
    assert after.revision == before.revision + 1
    assert read_card(after.path)[0].pose != pose
    workspace.undo()
    assert read_card(after.path)[0].pose == pose
    draft = workspace.capturing.begin()
    assert draft is not None
    draft.name = "New one"
    saved: list[Path] = []
    workspace.capturing.saved.connect(saved.append)
    workspace.capturing.save(Camera())
    assert workspace.history.undo_label == "Capture New one"
    assert saved == [entry(workspace, "New one").path]


def test_pictures_are_drawn_large_once_and_halved_but_ink_twice(
    workspace: Workspace, drawing: FlatPictures
) -> None:
    turn_head(workspace)
    draft = workspace.capturing.begin()
    assert draft is not None
    draft.name, draft.ground = "Shaded", False
    camera = Camera(yaw=0.4)
    workspace.capturing.save(camera)
    (view,) = drawing.asked
    assert (view.width, view.height, view.quality) == (640, 640, Quality.CARD)
    assert (view.background, view.style) == (False, "shaded")
    path = entry(workspace, "Shaded").path
    sizes = [Image.open(io.BytesIO(read_picture(path, n) or b"")).size for n in (320, 640)]
    assert sizes == [(320, 320), (640, 640)] and read_motion(path) is None
    draft = workspace.capturing.begin()
    assert draft is not None
    draft.name, draft.style = "Ink", "outline"
    workspace.capturing.save(camera)
    assert [v.width for v in drawing.asked[1:]] == [640, 320]
    drawing.broken = True
    draft = workspace.capturing.begin()
    assert draft is not None
    draft.name = "Blind"
    workspace.capturing.save(camera)  # the pose is kept all the same
    assert read_picture(entry(workspace, "Blind").path) is None


def test_a_picture_of_its_own_is_kept_and_a_clip_moves(
    workspace: Workspace, drawing: FlatPictures
) -> None:
    workspace.go(1.0)
    workspace.applying.lay_in(entry(workspace, "Nod"))
    workspace.keep_mix()
    length = read_card(entry(workspace, "Nod").path)[0].clip
    assert length is not None
    draft = workspace.capturing.begin_clip((1.0, 1.0 + length.length))
    assert draft is not None and draft.sheet
    draft.name = "Nod again"
    draft.set_own_picture((b"small", b"large"))
    workspace.capturing.save(Camera())
    path = entry(workspace, "Nod again").path
    card = read_card(path)[0]
    assert card.kind == "clip" and card.own_picture and card.clip is not None
    assert card.clip.length == length.length
    assert (read_picture(path, 320), read_picture(path, 640)) == (b"small", b"large")
    motion = read_motion(path)
    assert motion is not None
    moving = Image.open(io.BytesIO(motion))
    assert moving.size == (160, 160)
    assert {v.width for v in drawing.asked} == {640, 160}
    assert getattr(moving, "n_frames", 1) == sum(v.width == 160 for v in drawing.asked)


@pytest.mark.parametrize("both", [False, True])
def test_the_other_side_of_cards_lies_beside_them(
    workspace: Workspace, drawing: FlatPictures, both: bool
) -> None:
    rig = actor_of(workspace).rig
    cards = [entry(workspace, n) for n in ("Fist", "Point")]
    first = read_card(cards[0].path)[0]
    workspace.settings.author = "Ines B." if both else ""
    workspace.capturing.mirror(cards, both=both)
    word = "Both sides of 2 cards" if both else "Other side of 2 cards"
    assert workspace.history.undo_label == word
    for one in cards:
        end = "both sides" if both else "right"
        made = entry(workspace, f"{one.name}, {end}")
        assert made.sheet == one.sheet and made.side == ("both" if both else "right")
        card, own = read_card(made.path)[0], read_card(one.path)[0]
        assert card.author == ("Ines B." if both else first.author) != ""
        assert (card.tags, card.note, card.region) == (own.tags, own.note, own.region)
        assert (card.character, card.fingerprint) == (own.character, own.fingerprint)
        names = {n[:-2] for n in own.pose.controls}
        right = {f"{n}_R" for n in names}
        assert set(card.pose.controls) == (right | set(own.pose.controls) if both else right)
        state, before = worn(rig, card), worn(rig, own)
        for name in names:
            a, b = rig.control_row[f"{name}_R"], rig.control_row[f"{name}_L"]
            turned = [
                float(angle_between(s.turn[r], rig.rest.turn[r]))
                for s, r in ((state, a), (before, b))
            ]
            assert turned[0] == pytest.approx(turned[1], abs=1e-6)
        assert card.anchor is not None and card.frame is not None
        if not both:
            assert own.anchor is None or card.anchor.control.endswith("_R")
    workspace.undo()
    assert not any(", right" in e.name for e in workspace.open_libraries.entries())
    workspace.capturing.mirror([], both=both)
    assert workspace.history.undo_label != word


def test_a_card_of_somebody_else_has_no_other_side_here(workspace: Workspace) -> None:
    told: list[FoxHandError] = []
    workspace.failed.connect(told.append)
    workspace.clear_stage()
    quill = next(actor_path for actor_path in crew(workspace) if "quill" in actor_path.name)
    workspace.open_rig(quill)
    workspace.capturing.mirror([entry(workspace, "Crouch")], both=False)
    assert [e.code for e in told] == ["mirror.missing"]


def crew(workspace: Workspace) -> list[Path]:
    folder = workspace.open_libraries.places[0].folder.parent
    return sorted((folder / "cast").glob("*.glb"))


def test_a_frame_shows_all_of_what_is_captured_wherever_the_figure_stands(
    workspace: Workspace,
) -> None:
    actor = actor_of(workspace)
    for name in ("Fist", "Glad", "Crouch"):
        card = read_card(entry(workspace, name).path)[0]
        rows = rows_of(actor.rig, card)
        shots = []
        for ground in ([0.0, 0.0, 0.0], [1.5, 0.0, -2.0]):
            actor.stand_at(np.array(ground))
            shot = shot_of(actor, card)
            flesh = actor.rig.flesh(shot.standing.at, actor.flesh_nodes(rows))
            seen = shot.camera.project(flesh, 1.0, 1.0)
            inside = ((seen[:, :2] > 0) & (seen[:, :2] < 1)).all(1)
            assert inside.mean() > 0.6
            shots.append(seen)
            again = in_the_middle(on_ground(shot.camera, actor), actor)
            assert again.target == pytest.approx(shot.camera.target)
        assert shots[0] == pytest.approx(shots[1], abs=1e-6)
    actor.stand_at(np.zeros(3))
    whole = framed(actor, actor.standing, [])
    seen = whole.project(actor.rig.flesh(actor.at, None), 1.0, 1.0)
    assert ((seen[:, :2] > 0) & (seen[:, :2] < 1)).all()


def test_what_is_around_a_card_is_as_when_it_was_taken(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    rig, row = actor.rig, actor.rig.control_row
    workspace.applying.put_on(entry(workspace, "Arms up"))
    workspace.keep_mix()
    stood = actor.state
    workspace.selection.set([row[f"finger_index_{n}_L"] for n in (1, 2, 3)])
    draft = workspace.capturing.begin()
    assert draft is not None
    draft.name = "Finger"
    workspace.capturing.save(Camera())
    workspace.reset(None, "Rest")
    card = read_card(entry(workspace, "Finger").path)[0]
    assert set(card.pose.controls) <= {"finger_index_1_L", "finger_index_2_L", "finger_index_3_L"}
    on = worn(rig, card)
    assert angle_between(on.turn, stood.turn).max() < 1e-6
    assert not set(card.around.controls) & set(card.pose.controls)
    assert all(held.euler is None and held.rest is None for held in card.around.controls.values())


def test_the_next_picture_of_a_card_is_refused_where_it_is_not_ours(
    workspace: Workspace, drawing: FlatPictures
) -> None:
    actor, card = actor_of(workspace), read_card(entry(workspace, "Nod").path)[0]
    with pytest.raises(FoxHandError) as caught:
        reshot(replace(card, own_picture=True), actor, workspace.capturing._drawing)
    assert caught.value.code == "reshoot.own_picture"
    strange = {f"no {n}": held for n, held in card.pose.controls.items()}
    pose = replace(card.pose, controls={n: replace(h, settings={}) for n, h in strange.items()})
    with pytest.raises(FoxHandError) as caught:
        reshot(replace(card, pose=pose), actor, workspace.capturing._drawing)
    assert caught.value.code == "reshoot.nothing_lands"
    again = reshot(card, actor, workspace.capturing._drawing, "outline")
    assert again.card.style == "outline" and again.card.pose == card.pose
    # a clip is shown where it is farthest from how it begins
    head = actor.rig.controls[actor.rig.control_row["head"]].node
    start = shot_of(actor, card).standing.at.nodes[head, :3, :3]
    away = np.abs(again.standing.at.nodes[head, :3, :3] - start).max()
    assert away > 0.02
    workspace.capturing.reshoots.take([entry(workspace, "Nod"), entry(workspace, "Fist")])
    assert workspace.history.undo_label == "Pictures of 2 cards"
    drawing.broken = True
    told: list[FoxHandError] = []
    workspace.failed.connect(told.append)
    workspace.capturing.reshoots.take([entry(workspace, "Fist")])
    assert [e.code for e in told] == ["reshoot.not_drawn"]
    change = workspace.capturing.reshoots.preview(actor, entry(workspace, "Fist"))
    assert change.before and change.after is None and change.problem == "It could not be drawn."
