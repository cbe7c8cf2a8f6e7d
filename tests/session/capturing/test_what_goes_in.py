"""What goes into a card, one channel at a time, and how that is said."""

from __future__ import annotations

from pathlib import Path
from shutil import copy2

import numpy as np
import pytest

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Channel, ControlKind, Region, Side
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.store.sheets import Habit
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.away import (
    away_from,
    channel_name,
    farthest_first,
    named,
    way_words,
)
from fox_hand.session.capturing.batch import held_words, named_by
from fox_hand.session.capturing.capture_groups import groups_of, without_own_turn
from fox_hand.session.capturing.chosen_channels import ChosenChannels
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.figures.figure import Figure
from tests.bodies import Build, body_rig
from tests.core.naming.test_roles import FAMILIES
from tests.session.conftest import entry

TURN, MOVE, SCALE = ChannelKind.TURN, ChannelKind.MOVE, ChannelKind.SCALE
SETTING = ChannelKind.SETTING


def actor_of(workspace: Workspace) -> Figure:
    assert workspace.actor is not None
    return workspace.actor


def wrench(workspace: Workspace) -> None:
    """Something of each kind: a head turned, a jaw moved, a hand larger, a lid shut."""
    actor = actor_of(workspace)
    rig, state = actor.rig, actor.state
    turn, move, scale, settings = (
        state.turn.copy(),
        state.move.copy(),
        state.scale.copy(),
        state.settings.copy(),
    )
    turn[rig.control_row["head"]] = from_vector(np.array([0.0, np.radians(30), 0.0]))
    move[rig.control_row["jaw"]] = 0.03, 0.0, 0.04
    scale[rig.control_row["jaw"]] = 1.0, 1.25, 1.0
    settings[rig.setting_row["lid_shut_L"]] = 0.75
    workspace.apply("Wrench", state.with_(turn=turn, move=move, scale=scale, settings=settings))


def test_how_far_each_channel_is_away_is_measured_and_said(workspace: Workspace) -> None:
    wrench(workspace)
    actor = actor_of(workspace)
    rig, state = actor.rig, actor.state
    away = away_from(rig, state, rig.rest)
    kinds = rig.controls[rig.control_row["jaw"]].channels
    wanted = {
        ChannelId(TURN, "head"): np.radians(30),
        ChannelId(MOVE, "jaw"): 0.05,
        ChannelId(SCALE, "jaw"): 0.25,
        ChannelId(SETTING, "lid_shut_L"): 0.75,
    }
    wanted = {
        x: far for x, far in wanted.items() if x.name != "jaw" or Channel(x.kind.value) in kinds
    }
    assert away == pytest.approx(wanted)
    words = {x.kind: way_words(rig, state, x, far) for x, far in away.items()}
    assert words[TURN] == "Head turn 30°" and words[MOVE] == "Jaw move 5.0 cm"
    assert words[SETTING] == f"{channel_name(rig, ChannelId(SETTING, 'lid_shut_L'))} 0.75"
    if SCALE in words:
        assert words[SCALE] == "Jaw scale ×1.25"
    tiny = way_words(rig, state, ChannelId(MOVE, "jaw"), 0.0004)
    assert tiny == "Jaw move 0.40 mm"
    assert way_words(rig, state, ChannelId(TURN, "head"), np.radians(0.25)) == "Head turn 0.25°"
    # a turn of a half, a place by the height, a setting by its range
    order = farthest_first(rig, away, sorted(away))
    assert [x.kind for x in order if x.kind is not SCALE] == [SETTING, TURN, MOVE]
    small = body_rig(Build(height=0.3), FAMILIES["up leg"])
    way = {ChannelId(TURN, "Head"): 0.1, ChannelId(MOVE, "Hips"): 0.05}
    assert [x.kind for x in farthest_first(small, way, sorted(way))] == [MOVE, TURN]
    unknown = ChannelId(TURN, "neck")
    assert farthest_first(rig, away, [unknown, *order])[-1] == unknown


def test_the_side_is_named_once(workspace: Workspace) -> None:
    rig = actor_of(workspace).rig
    for row, control in enumerate(rig.controls):
        name = named(rig, row)
        assert name.endswith(control.label)
        front = {Side.LEFT: "L ", Side.RIGHT: "R "}.get(control.side, "")
        if control.side.value in control.label.lower().split():
            front = ""
        assert name == front + control.label


def test_settings_of_both_sides_on_one_mesh_are_told_apart(tmp_path: Path) -> None:
    path = tmp_path / "strangers.glb"
    copy2(shipped() / "cast" / "marrow.glb", path)  # without its sidecar: the mesh holds them all
    rig = read_rig(path)
    names = [channel_name(rig, ChannelId(SETTING, setting.name)) for setting in rig.settings]
    assert len(set(names)) == len(names)
    assert {"Face L brow down", "Face R brow down"} <= set(names)


def held(rig: Rig, chosen: ChosenChannels) -> dict[str, str]:
    """What is chosen of each control, by the first letters of its kinds."""
    found: dict[str, str] = {}
    for x in chosen.channel_ids:
        name = rig.settings[rig.setting_row[x.name]].name if x.is_setting else x.name
        found[name] = found.get(name, "") + x.kind.value[0]
    return found


def test_kinds_controls_and_single_channels_are_chosen_apart(marrow: Rig) -> None:
    row = marrow.control_row
    chosen = ChosenChannels(marrow, [row["jaw"], row["hips"]])
    assert held(marrow, chosen) == {"jaw": "t", "hips": "t"}
    chosen.set_kind(Channel.MOVE, True)
    assert held(marrow, chosen) == {"jaw": "mt", "hips": "mt"}
    chosen.set_channels([ChannelId(MOVE, "jaw"), ChannelId(SETTING, "lid_shut_L")], False)
    chosen.set_channels([ChannelId(TURN, "head"), ChannelId(SETTING, "jaw_open")], True)
    assert held(marrow, chosen) == {"jaw": "t", "hips": "mt", "head": "t", "jaw_open": "s"}
    holder = marrow.settings[marrow.setting_row["jaw_open"]].control
    assert chosen.rows == {row["jaw"], row["hips"], row["head"], holder}
    again = chosen.copy()
    chosen.set_kind(Channel.MOVE, False)  # forgets what was said of moves apart
    assert held(marrow, chosen) == {"jaw": "t", "hips": "t", "head": "t", "jaw_open": "s"}
    chosen.set_kind(Channel.MOVE, True)
    assert held(marrow, chosen)["jaw"] == "mt"
    assert held(marrow, again) == {"jaw": "t", "hips": "mt", "head": "t", "jaw_open": "s"}
    chosen.set_kind(Channel.TURN, False)
    assert held(marrow, chosen) == {"jaw": "m", "hips": "m", "jaw_open": "s"}
    assert chosen.candidates >= {row["jaw"], row["hips"]}
    chosen.set_rows([row["hips"], row["head"], holder], False)
    assert held(marrow, chosen) == {"jaw": "m"}


def test_whole_controls_bring_their_settings_and_a_kind_where_none_fits(marrow: Rig) -> None:
    row = marrow.control_row
    holder = marrow.settings[marrow.setting_row["jaw_open"]].control
    chosen = ChosenChannels(marrow, [])
    assert chosen.channel_ids == [] and chosen.rows == set()
    chosen.set_rows([holder], True)
    assert chosen.settings == set(marrow.settings_of[holder]) and chosen.kinds == {Channel.TURN}
    chosen.set_rows([holder], False)
    assert chosen.settings == set()
    chosen.set_kind(Channel.TURN, False)
    chosen.set_rows([row["head"]], True)  # nothing of it would go in
    assert held(marrow, chosen) == {"head": "t"}
    chosen.only([ChannelId(MOVE, "jaw"), ChannelId(TURN, "head"), ChannelId(SETTING, "jaw_open")])
    assert held(marrow, chosen) == {"jaw": "m", "head": "t", "jaw_open": "s"}
    assert chosen.kinds == {Channel.MOVE, Channel.TURN}
    chosen.set_setting(marrow.setting_row["jaw_open"], False)
    chosen.set_setting(marrow.setting_row["lid_shut_L"], True)
    assert held(marrow, chosen) == {"jaw": "m", "head": "t", "lid_shut_L": "s"}


def test_groups_hold_every_control_once_from_head_to_toe(marrow: Rig) -> None:
    groups = groups_of(marrow)
    rows = [r for group in groups for r in group.rows]
    assert sorted(rows) == [r for r, c in enumerate(marrow.controls) if not c.helper]
    labels = [group.label for group in groups]
    assert len(set(labels)) == len(labels)
    hands = [g for g in groups if "hand" in g.label]
    assert [(g.label, g.own_turn) for g in hands] == [
        ("Left hand, fingers", False),
        ("Left hand, its own turn", True),
        ("Right hand, fingers", False),
        ("Right hand, its own turn", True),
    ]
    assert [g.label for g in groups if g.label.endswith("leg")] == ["Left leg", "Right leg"]
    order = [next(iter(g.rows)) for g in groups]
    regions = [list(Region).index(marrow.controls[r].region) for r in order]
    assert regions == sorted(regions)
    for group in groups:
        if group.own_turn:
            assert all(marrow.controls[r].kind is ControlKind.JOINT for r in group.rows)
    left = hands[0].rows, hands[1].rows
    assert without_own_turn(marrow, [*left[0], *left[1]]) == set(left[0])
    assert without_own_turn(marrow, left[1]) == set(left[1])
    arm = marrow.control_row["arm_L"]
    assert without_own_turn(marrow, [*left[0], *left[1], arm]) == {*left[0], *left[1], arm}


def test_what_is_proposed(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    rig, row = actor.rig, actor.rig.control_row
    # at rest: everything that turns or holds settings
    whole = CaptureDraft(actor, ()).chosen
    assert len(whole.candidates) == len(rig.controls)
    turns = {r for r, c in enumerate(rig.controls) if Channel.TURN in c.channels}
    assert whole.rows == turns | {r for r in range(len(rig.controls)) if len(rig.settings_of[r])}
    wrench(workspace)
    moved = CaptureDraft(actor, ())
    lid = rig.settings[rig.setting_row["lid_shut_L"]].control
    assert moved.rows == {row["head"], row["jaw"], lid}
    assert Channel.MOVE in moved.kinds and moved.kinds >= {Channel.TURN}
    ids = set(moved.channel_ids)
    assert {ChannelId(TURN, "head"), ChannelId(MOVE, "jaw")} <= ids
    assert ChannelId(MOVE, "head") not in ids  # its place is not meant
    chosen = CaptureDraft(actor, [row["neck"]])
    assert chosen.rows == {row["neck"]} and chosen.kinds == {Channel.TURN}
    assert ChannelId(TURN, "head") in chosen.moved_but_left_out()
    assert chosen.untouched_but_in() == [ChannelId(TURN, "neck")]
    differs = moved.differs()
    assert set(np.flatnonzero(differs).tolist()) == {row["head"], row["jaw"], lid}


def test_words_of_a_card_that_is_stored_over_or_varied(workspace: Workspace) -> None:
    from dataclasses import replace

    fist = replace(entry(workspace, "Fist"), note="Knuckles", licence="CC0", tags=("tight",))
    draft = CaptureDraft(actor_of(workspace), ())
    draft.licence = "own"
    draft.store_over(fist)
    assert draft.over is fist
    assert (draft.name, draft.sheet, draft.tags) == ("Fist", fist.sheet, ("tight",))
    assert (draft.note, draft.licence) == ("Knuckles", "CC0")
    draft.store_over(replace(fist, licence=""))
    assert draft.licence == "CC0"
    draft.make_variant(fist)
    assert draft.over is None and draft.name == "Fist, variant" and draft.note == "Knuckles"
    assert draft.source_words == "from the figure as it stands"
    draft.taken_from, draft.taken_frame = "nf_010", 12.5
    assert draft.source_words == "from nf_010, frame 12.5"
    draft.set_look("flat")
    assert (draft.style, draft.ground) == ("flat", True)
    draft.set_look(ground=False)
    assert (draft.style, draft.ground) == ("flat", False)
    draft.note, draft.name = "  two  ", " Fist "
    card = draft.card()
    assert (card.name, card.note, card.source, card.source_frame) == ("Fist", "two", "nf_010", 12.5)
    assert (card.style, card.ground, card.kind) == ("flat", False, "pose")
    plain = CaptureDraft(actor_of(workspace), ()).card()
    assert (plain.source, plain.source_frame) == ("", None)


@pytest.mark.parametrize(
    ("habit", "names"),
    [
        (Habit(), {"head": "t", "jaw": "mt", "lid_shut_L": "s"}),
        (Habit(("move",)), {"jaw": "m", "lid_shut_L": "s"}),
        (Habit(("turn",), settings=False), {"head": "t", "jaw": "t"}),
        (Habit(regions=("mouth",)), {"jaw": "mt"}),
        (Habit(left_out=("lid_shut_R",)), {"head": "t", "jaw": "mt"}),
    ],
)
def test_a_sheet_s_habit_decides(workspace: Workspace, habit: Habit, names: dict[str, str]) -> None:
    wrench(workspace)
    actor = actor_of(workspace)
    draft = CaptureDraft(actor, ())
    draft.set_channels([x for x in draft.channel_ids if x.kind is SCALE], False)
    lids = [x for x in draft.channel_ids if x.is_setting and x.name != "lid_shut_L"]
    draft.take_habit(habit)
    draft.set_channels([*lids, *(x for x in draft.channel_ids if x.kind is SCALE)], False)
    assert held(actor.rig, draft.chosen) == names


def test_names_by_a_pattern() -> None:
    values: dict[str, str | int] = {"sheet": "Face", "n": 3, "frame": 12, "source": "deck"}
    assert named_by("{sheet} {n:03} at {frame}", values) == "Face 003 at 12"
    assert named_by(" {source:02} {n:2} ", values) == "deck  3"
    for wrong in ("{nobody}", "{", "}", "  ", "{n"):
        with pytest.raises(Exception) as caught:
            named_by(wrong, values)
        assert getattr(caught.value, "code", "") == "pattern.unknown"


def test_what_a_card_would_hold_is_said_by_groups(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    row = actor.rig.control_row
    draft = CaptureDraft(actor, [row["head"]])
    draft.chosen.only([ChannelId(TURN, "head")])
    (label,) = [g.label for g in draft.groups if row["head"] in g.rows]
    assert held_words(draft) == f"{label} 1"
    fingers = [ChannelId(TURN, f"finger_index_{n}_L") for n in (1, 2, 3)]
    draft.chosen.only([ChannelId(TURN, "head"), *fingers])
    assert held_words(draft) == f"4 in all: {label} 1, Left hand, fingers 3"
    draft.chosen.only([])
    assert held_words(draft) == ""
