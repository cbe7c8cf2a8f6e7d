"""A library looked through: everything that is wrong or kept is in the report, with its numbers."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path
from uuid import uuid4

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Progress
from fox_hand.library.files.atomic import PART
from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.store import moves
from fox_hand.library.store.conflicts import set_aside
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.libraries.care_commands import CareCommands, old_ones
from fox_hand.session.libraries.care_report import Report, look_through, versions_of
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_library import OpenLibrary
from tests.session.conftest import entry


@pytest.fixture
def place(workspace: Workspace) -> OpenLibrary:
    return workspace.open_libraries.places[0]


def looked(workspace: Workspace, place: OpenLibrary) -> Report:
    workspace.open_libraries.look_again(place)
    rigs = [actor.rig for actor in workspace.cast.actors]
    return look_through(place, rigs, Progress())


def test_a_library_in_order_has_nothing_to_say(workspace: Workspace, place: OpenLibrary) -> None:
    steps: list[tuple[float, str]] = []
    progress = Progress()
    progress.report_to(lambda fraction, text: steps.append((fraction, text)))
    report = look_through(place, [], progress)
    assert (report.total, report.fine, report.versions) == (28, 28, 0)
    assert not any((report.troubles, report.clashes, report.strange, report.lost, report.taken_out))
    assert not (report.leftovers or report.gone) and report.seconds > 0
    assert [f for f, _ in steps] == sorted(f for f, _ in steps)
    assert ("Comparing poses" in {t for _, t in steps}) and steps[0][0] == 0.2


def test_everything_that_is_wrong_is_in_the_report(
    workspace: Workspace, place: OpenLibrary
) -> None:
    library = place.library
    assert library is not None
    # two people, one card
    fist = entry(workspace, "Fist")
    card, picture = read_card(fist.path)
    flat = read_card(entry(workspace, "Flat").path)[0]
    late = replace(card, pose=flat.pose, author="Tomas R.", note="late")
    set_aside(library, card.identity, card_bytes(late, picture))
    # a damaged file with a whole copy of before
    fox = entry(workspace, "Fox")
    moves.store_over(library, fox, read_card(fox.path)[0], None)
    moves.store_over(library, moves.current(library, fox.path), read_card(fox.path)[0], None)
    fox.path.write_bytes(fox.path.read_bytes()[:300])
    # a file copied outside, one taken out, one deleted outside after it had a version
    (fist.path.parent / "Copied.foxcard").write_bytes(entry(workspace, "Point").path.read_bytes())
    library.take_out(entry(workspace, "Tense").path)
    wave = entry(workspace, "Wave")
    moves.store_over(library, wave, read_card(wave.path)[0], None)
    wave.path.unlink()
    old = fist.path.parent / f".x{PART}"
    old.write_bytes(b"half")
    os.utime(old, (1_000_000, 1_000_000))
    report = looked(workspace, place)
    (clash,) = report.clashes
    assert clash.entry is not None and clash.entry.name == "Fist" and clash.conflict.card == late
    assert clash.held == len({*card.pose.controls, *flat.pose.controls}) and clash.differences
    (strange,) = report.strange
    assert strange.entry.path == fox.path and strange.version is not None
    assert read_card(strange.version)[0].revision == 2  # the latest of those that can be read
    double = [p for p in report.pairs if p.double]
    assert len(double) == 1 and double[0].share == 1.0
    assert {double[0].first.path.name, double[0].second.path.name} == {
        "Point.foxcard",
        "Copied.foxcard",
    }
    (taken,) = report.taken_out
    assert taken.entry.name == "Tense" and taken.entry.sheet == "Marrow/Hands"
    assert len(taken.day) == 10
    (gone,) = report.gone
    assert gone.entry.name == "Wave"
    assert report.total == 27 and report.fine == 25 and report.versions == 3
    assert [v.entry.revision for v in versions_of(library, fox.identity)] == [1, 2]
    settle_all(workspace, place, report)


def settle_all(workspace: Workspace, place: OpenLibrary, report: Report) -> None:
    """Every choice, one step each; and all taken back."""
    (clash,), (strange,), (taken,), (gone,) = (
        report.clashes,
        report.strange,
        report.taken_out,
        report.gone,
    )
    double = [p for p in report.pairs if p.double]
    fist, fox = entry(workspace, "Fist").path, strange.entry.path
    commands, outcomes = CareCommands(workspace.file_jobs), list[Outcome]()
    commands.take_late(place, clash, outcomes.append)
    assert workspace.history.undo_label == "Take the other Fist"
    assert read_card(fist)[0].note == "late"
    commands.use_copy(place, strange, outcomes.append)
    assert workspace.history.undo_label == "Use a whole copy of Fox"
    assert read_card(fox)[0].revision == 3
    commands.make_own(place, double[0].second, outcomes.append)
    commands.bring_back(place, taken, outcomes.append)
    assert workspace.history.undo_label == "Bring back Tense"
    commands.bring_back_version(place, gone, outcomes.append)
    assert all(not o.failed for o in outcomes) and len(outcomes) == 5
    after = looked(workspace, place)
    assert not (after.clashes or after.strange or after.gone)
    assert [t.path.name for t in after.taken_out] == ["Fox.foxcard"]  # as it was, damaged
    assert not any(p.double for p in after.pairs)
    assert after.total == after.fine == 29
    for _ in range(5):
        workspace.undo()
    again = looked(workspace, place)
    assert (len(again.clashes), len(again.strange), len(again.taken_out)) == (1, 1, 3)


def test_both_or_the_early_one_can_be_taken(workspace: Workspace, place: OpenLibrary) -> None:
    library = place.library
    assert library is not None
    fist = entry(workspace, "Fist")
    card = read_card(fist.path)[0]
    for number, author in enumerate(("Tomas R.", "")):
        late = replace(card, author=author, note="late")
        set_aside(library, card.identity, card_bytes(late, None))
        clash = looked(workspace, place).clashes[0]
        assert clash.differences == () and clash.held == len(card.pose.controls)
        commands = CareCommands(workspace.file_jobs)
        if number == 0:
            commands.take_early(place, clash, lambda _: None)
            assert workspace.history.undo_label == "Take Fist as it is"
            assert read_card(fist.path)[0].note == card.note
        else:
            commands.keep_both(place, clash, lambda _: None)
            assert workspace.history.undo_label == "Keep both of Fist"
            names = {e.name for e in workspace.open_libraries.entries()}
            assert "Fist (other)" in names


def test_twins_are_asked_about_once_and_named_after_those_that_are_not(
    workspace: Workspace, place: OpenLibrary
) -> None:
    library = place.library
    assert library is not None
    glad = entry(workspace, "Glad")
    workspace.card_commands.duplicate([glad, entry(workspace, "Fist")])
    card, picture = read_card(entry(workspace, "Sad").path)
    theirs = replace(card, identity=uuid4().hex, character="Pim")
    library.add(theirs, picture, "Pim/Face")  # of another character it is no twin
    report = looked(workspace, place)
    pairs = [p for p in report.pairs if not p.double and p.share > 0.999]
    assert len(pairs) == 2 and not any(p.kept for p in pairs)
    commands = CareCommands(workspace.file_jobs)
    commands.keep_twins(place, pairs[0], lambda _: None)
    again = looked(workspace, place)
    kept = [p.kept for p in again.pairs]
    assert kept.count(True) == 1 and kept == sorted(kept)
    first = next(p for p in again.pairs if p.kept)
    commands.keep_twins(place, first, lambda _: None)
    assert not any(p.kept for p in looked(workspace, place).pairs)


def test_cards_that_no_rig_has_are_told_with_what_is_missing(
    workspace: Workspace, place: OpenLibrary
) -> None:
    quill = next(place.folder.parent.glob("cast/quill.glb"))
    workspace.clear_stage()
    workspace.open_rig(quill)
    (lost,) = looked(workspace, place).lost
    assert lost.character == "Marrow" and lost.entries and 0 < len(lost.missing) <= 6
    place_missing = {
        n for e in lost.entries for n in place.missing(e.shape, workspace.cast.actors[0].rig)
    }
    assert set(lost.missing) <= place_missing
    assert look_through(place, [], Progress()).lost == ()


def test_what_is_deleted_for_good_is_gone_and_only_the_old_are_offered(
    workspace: Workspace, place: OpenLibrary
) -> None:
    library = place.library
    assert library is not None
    workspace.take_out([entry(workspace, "Fist"), entry(workspace, "Fox")])
    taken = looked(workspace, place).taken_out
    assert len(taken) == 2 and old_ones(place, taken) == ()
    old = replace(taken[0], day="2001-01-01")
    assert old_ones(place, [old, taken[1]]) == (old,)
    assert old_ones(OpenLibrary(9, Path("/none"), "none"), [old]) == ()
    told: list[FoxHandError] = []
    workspace.failed.connect(told.append)
    commands = CareCommands(workspace.file_jobs)
    commands.forget(place, [], lambda _: None)
    label = workspace.history.undo_label
    commands.forget(place, taken[:1], lambda _: None)
    assert workspace.history.undo_label == label
    left = looked(workspace, place).taken_out
    assert [t.entry.name for t in left] == [taken[1].entry.name]
