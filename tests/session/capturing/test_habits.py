"""How cards of a sheet are taken by habit: regions and single settings too, on disk and back."""

from __future__ import annotations

from fox_hand.core.model.controls import Region
from fox_hand.library.store.sheets import Sheet, read_sheet, write_sheet
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.capturing.presets import habit_of
from tests.session.capturing.test_forgotten import begun, pose_settings, setting

FACE = {Region.HEAD, Region.EYES, Region.MOUTH}


def regions_of(draft: CaptureDraft) -> set[Region]:
    return {draft.actor.rig.controls[row].region for row in draft.rows}


def test_a_sheet_keeps_its_regions_and_which_settings_stay_out(workspace: Workspace) -> None:
    place = workspace.open_libraries.target
    assert place is not None
    assert place.library is not None
    rig = workspace.actor.rig
    pose_settings(workspace, lid_shut_L=0.4, mouth_corner_up_L=0.5)
    lids = next(
        c.name
        for c in rig.controls
        if rig.setting_row["lid_shut_L"] in rig.settings_of[rig.control_row[c.name]]
    )
    draft = begun(workspace, lids, "mouth")
    draft.set_channels([setting("lid_wide_L")], False)
    write_sheet(place.library, "Marrow/Face", Sheet(habit=habit_of(draft)))
    workspace.capturing.cancel()
    habit = read_sheet(place.library, "Marrow/Face").habit
    assert habit == habit_of(draft)
    assert set(habit.regions) == {region.value for region in regions_of(draft)}

    other = lids.replace("_L", "_R")
    draft = begun(workspace, other, "mouth", "finger_index_2_L", "spine_1")
    draft.take_habit(habit)
    assert regions_of(draft) <= FACE
    names = {x.name for x in draft.channel_ids}
    assert "lid_shut_R" in names
    assert "lid_wide_R" not in names
    workspace.capturing.cancel()

    draft = begun(workspace, "finger_index_2_L")  # nothing of it is meant: all of the regions is
    draft.take_habit(habit)
    assert regions_of(draft) == {Region(name) for name in habit.regions}
