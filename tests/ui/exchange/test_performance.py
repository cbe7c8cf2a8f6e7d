"""Motion of somebody else's rig: it lands, stays in sight, and what stays out is said."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from scipy.spatial.transform import Rotation

from fox_hand.core.animation.motion import motion_of
from fox_hand.core.animation.performance import Performance
from fox_hand.interchange.motions import motion_bytes
from fox_hand.ui.commands.actions import run
from fox_hand.ui.exchange.animations_dialog import AnimationsDialog
from tests.bodies import Build, Placed, body_rig, with_affixes
from tests.core.naming.test_roles import FAMILIES
from tests.motions import performed
from tests.ui.conftest import LONG, Hand
from tests.vrm import moving, vrm


def recorded(folder: Path, motion: str = "walk", *, prop: bool = False, kind: str = ".bvh") -> Path:
    """A recording of another house: names by joint, T-pose, another build and rate."""
    names = with_affixes(FAMILIES["by joint"], "cap:", "")
    if prop:  # something that moves and has no partner on anybody
        names["jaw"] = "cap:lamp"
    rig = body_rig(Build(arms_down=0, legs=0.5), names, Placed())
    made = performed(rig, {v: k for k, v in names.items()}, motion)
    if prop:
        turn = made.states.turn.copy()
        row = rig.control_row["cap:lamp"]
        angles = np.linspace(0, 2, len(made))[:, None]
        turn[:, row] = Rotation.from_euler("x", angles).as_quat()
        made = Performance(made.name, rig, made.states.with_(turn=turn), made.rate)
    path, acts = folder / f"{motion}{kind}", motion_of(motion, rig, made.states, made.rate)
    path.write_bytes(motion_bytes(kind, rig, acts, alone=True)[0])
    return path


def opened(hand: Hand, path: Path) -> None:
    """Bring in a performance, and look through its frames on the strip."""
    screen = hand.window.screens.performance
    hand.window.performances.open(path)
    hand.qtbot.waitUntil(lambda: not hand.window.screens.on_stage, timeout=LONG)
    hand.click(screen.key_poses, QPoint(10, 10))
    hand.qtbot.waitUntil(lambda: hand.workspace.review.sequence is not None, timeout=LONG)


def test_a_walk_from_elsewhere_stays_in_sight_with_its_feet_on_the_ground(
    hand: Hand, tmp_path: Path
) -> None:
    stage, before = hand.window.stage, hand.window.stage.camera
    opened(hand, recorded(tmp_path))
    sequence = hand.workspace.review.sequence
    actor = hand.workspace.actor
    hips = actor.rig.controls[actor.rig.control_row["hips"]].node
    lowest, places = [], []
    for frame in (0, 40, 80, 120, len(sequence) - 1):
        sequence.show(frame)
        place = actor.at.nodes[hips, :3, 3]
        places.append(place)
        seen = stage.camera.project(place[None], stage.width(), stage.height())[0]
        assert abs(seen[0] / stage.width() - 0.5) < 0.25
        lowest.append(float(actor.rig.flesh(actor.at)[:, 1].min()))
    assert np.linalg.norm(places[-1] - places[0]) > 1.5  # it has walked out of the picture
    assert np.abs(lowest).max() < 0.01 * actor.rig.height
    hand.workspace.review.close()
    assert np.allclose(stage.camera.target, before.target, atol=1e-9)
    assert actor.state.same_bits(actor.rig.rest)


def test_feet_that_hold_the_ground_can_be_let_go(hand: Hand, tmp_path: Path) -> None:
    opened(hand, recorded(tmp_path, "fast"))
    strip, sequence = hand.window.timeline.frame_strip, hand.workspace.review.sequence
    actor, marks = hand.workspace.actor, set(hand.workspace.review.sequence.marks)
    assert strip.feet.isVisible()
    assert strip.feet.isChecked()
    lowest = []
    for _ in range(3):
        found = []
        for frame in range(0, len(sequence), 6):
            sequence.show(frame)
            found.append(float(actor.rig.flesh(actor.at)[:, 1].min()))
        lowest.append(min(found))
        hand.click(strip.feet, strip.feet.rect().center())
    assert lowest[1] < lowest[0]  # they sink without
    assert lowest[2] == lowest[0]
    assert sequence.marks == marks
    assert not sequence.feet_hold
    assert hand.workspace.review.lay() > 0  # what is in sight is what is laid in
    line = next(x for c, x in actor.keys.lines.items() if c.name == "thigh_L")
    wanted = sequence.at(0).turn[actor.rig.control_row["thigh_L"]]
    assert np.allclose(np.abs(line.values[0] @ wanted), 1.0, atol=1e-9)


def test_what_stays_out_is_named(hand: Hand, tmp_path: Path) -> None:
    opened(hand, recorded(tmp_path, "fast", prop=True))
    assert "Not on Marrow: cap:lamp." in hand.window.notice.text


def asked_for(hand: Hand, path: Path) -> AnimationsDialog:
    """The dialog that a file with several animations opens."""
    hand.window.performances.open(path)
    hand.qtbot.waitUntil(
        lambda: any(d.isVisible() for d in hand.window.findChildren(AnimationsDialog)),
        timeout=LONG,
    )
    return next(d for d in hand.window.findChildren(AnimationsDialog) if d.isVisible())


def test_of_several_animations_one_is_chosen_or_all_become_cards(
    hand: Hand, tmp_path: Path
) -> None:
    path = moving(tmp_path / "waves.glb", hand.workspace.actor.path)
    dialog = asked_for(hand, path)
    words = [dialog.list.model().index(n, 0).data() for n in range(3)]
    assert words[0] == "wave: 0.2 s, 7 frames at 30"
    assert words[2].startswith("animation 3:")
    QTest.keyClick(dialog.list, Qt.Key.Key_Escape)
    assert hand.window.screens.on_stage  # nobody chose
    dialog = asked_for(hand, path)
    QTest.keyClick(dialog.list, Qt.Key.Key_Down)
    QTest.keyClick(dialog.list, Qt.Key.Key_Return)
    screen = hand.window.screens.performance
    hand.qtbot.waitUntil(lambda: not hand.window.screens.on_stage, timeout=LONG)
    assert screen.draft is not None
    assert len(screen.draft) == 7
    hand.key(Qt.Key.Key_Escape)
    dialog = asked_for(hand, path)
    hand.click(dialog.all, QPoint(10, 10))
    sheet = "Marrow/waves"

    def named() -> list[str]:
        cards = hand.workspace.open_libraries.entries()
        return sorted(e.name for e in cards if e.sheet == sheet and e.kind == "clip")

    hand.qtbot.waitUntil(lambda: len(named()) == 3, timeout=LONG)
    assert named() == ["animation 3", "wave", "wave"]
    hand.qtbot.waitUntil(lambda: "3 cards of Marrow" in hand.window.notice.text, timeout=LONG)
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: named() == [], timeout=LONG)


def test_expressions_of_a_file_become_cards_of_its_figure(hand: Hand, tmp_path: Path) -> None:
    command = hand.window.home.actions_table["expressions"]
    run(command)
    hand.qtbot.waitUntil(lambda: "no expressions" in hand.window.notice.text, timeout=LONG)
    path = vrm(tmp_path / "stranger.vrm")
    hand.workspace.open_rig(path)
    run(command)
    names = {"Happy", "Sad", "Aa", "Ou", "BlinkLeft", "Neutral", "Smirk"}

    def there() -> set[str]:
        cards = hand.workspace.open_libraries.entries()
        return {e.name for e in cards if e.sheet == "Stranger/Expressions" and e.has_picture}

    hand.qtbot.waitUntil(lambda: there() == names, timeout=LONG)
