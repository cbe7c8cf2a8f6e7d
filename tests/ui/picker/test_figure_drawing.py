"""The figure drawing for rigs it has never seen; words about cards; what the window remembers."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF
from PySide6.QtGui import QPainter

from fox_hand.__main__ import begin
from fox_hand.cli import Wish
from fox_hand.core.maths.rotations import about_axis
from fox_hand.core.model.controls import ControlKind, Region
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.entry import Entry
from fox_hand.render.renderer import Renderer
from fox_hand.session.figures.channels import turned_in_world
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.cards.card_words import describe, short_date
from fox_hand.ui.picker import figure_view
from fox_hand.ui.picker.figure_drawing import (
    HEIGHT,
    WIDTH,
    ZONES,
    drawing_from,
    drawing_view,
    lowered_arms,
    zone_rows,
    zone_word,
)
from fox_hand.ui.picker.sets_row import sets_of
from tests.beast import beast
from tests.core.retarget.test_anywhere import PLACES, elsewhere, moved
from tests.glb import two_skins
from tests.ui.conftest import LONG, Hand, OpenWindow


def arm_angle(rig: Rig, state: object, side: str) -> float:
    nodes = rig.evaluate(state).nodes
    at = {n: nodes[i][:3, 3] for i, n in enumerate(rig.skeleton.names)}
    d = at[f"hand_{side}"] - at[f"arm_{side}"]
    return float(np.degrees(np.arctan2(-d[1], abs(d[0]))))


@pytest.mark.parametrize("raised", [-40, 0, 42, 90])
def test_arms_are_drawn_hanging_whatever_stance_the_rig_rests_in(
    marrow: Rig, raised: float
) -> None:
    """An A-pose, a T-pose and arms overhead give the same drawing."""
    rest = marrow.rest
    for side, sign in (("L", 1), ("R", -1)):
        turn = about_axis(np.array([0.0, 0.0, 1.0]), float(np.radians(raised * sign)))
        row = marrow.control_row[f"arm_{side}"]
        rest = turned_in_world(marrow, rest, [row], marrow.evaluate(rest).nodes, turn)
    turned = replace(marrow)
    turned.__dict__["rest"] = rest
    state = lowered_arms(turned)
    for side in "LR":
        assert arm_angle(turned, state, side) == pytest.approx(66, abs=6)


ON_BODY = (ControlKind.JOINT, ControlKind.HOLDER)


def test_a_figure_that_looks_elsewhere_is_drawn_from_its_own_front(
    renderer: Renderer, marrow: Rig
) -> None:
    plain = drawing_from(marrow, renderer.picture(drawing_view(marrow)))
    for yaw, place in PLACES:
        other = elsewhere(marrow, moved(yaw, place))
        drawing = drawing_from(other, renderer.picture(drawing_view(other)))
        assert drawing.dots == pytest.approx(plain.dots, abs=1.5)
        for key, path in plain.paths.items():
            box, wanted = drawing.paths[key].boundingRect(), path.boundingRect()
            assert (box.center() - wanted.center()).manhattanLength() < 3, key


def test_an_animal_is_drawn_from_its_side_with_names_of_its_own(
    open_window: OpenWindow, renderer: Renderer, tmp_path: Path
) -> None:
    path = beast(tmp_path / "beast.glb")
    rig = read_rig(path)
    where = {c.name: c.region for c in rig.controls}
    assert {where[f"tail_{i}"] for i in (1, 2, 3)} == {Region.TAIL}
    assert where["ear_L"] is Region.EARS and where["wing_R"] is Region.WINGS
    assert where["head"] is Region.HEAD and where["spine"] is Region.TORSO
    drawing = drawing_from(rig, renderer.picture(drawing_view(rig)))
    assert drawing.aside and {"tail", "ears", "wings", "legs", "head"} <= set(drawing.paths)
    dots = {c.name: drawing.dots[i] for i, c in enumerate(rig.controls)}
    # it looks to the left, as its own left is towards us; nothing is enlarged
    assert dots["head"][0] < dots["chest"][0] < dots["hips"][0] < dots["tail_3"][0]
    assert dots["foot_L"] == pytest.approx(dots["foot_R"], abs=1.0)
    hand = open_window()
    hand.window.opener.open_rig(path)
    hand.qtbot.waitUntil(lambda: hand.window.workspace.actor is not None)
    figure = hand.window.figure_panel.figure
    hand.qtbot.waitUntil(lambda: figure.drawing is not None)
    names = {part.name for part in figure.accessible_parts()}
    assert {"the tail", "the wings", "the ears", "the left arm"} <= names
    assert {"Wings", "Tail"} <= set(sets_of(Figure(rig, Path())))


def test_the_drawing_of_marrow_is_symmetric_and_fills_its_place(
    renderer: Renderer, marrow: Rig
) -> None:
    drawing = drawing_from(marrow, renderer.picture(drawing_view(marrow)))
    people = {z.key for z in ZONES} - {"ears", "wings", "tail", "limbs"}
    assert set(drawing.paths) == people and not drawing.aside
    boxes = [p.boundingRect() for p in drawing.paths.values()]
    assert min(b.left() for b in boxes) >= 0
    assert max(b.right() for b in boxes) <= WIDTH
    assert min(b.top() for b in boxes) >= 0
    assert max(b.bottom() for b in boxes) <= HEIGHT
    assert max(b.bottom() for b in boxes) > HEIGHT * 0.85
    middle = drawing.dots[marrow.control_row["chest"], 0]
    for name in ("hand", "shin", "finger_index_2"):
        left, right = (drawing.dots[marrow.control_row[f"{name}_{s}"]] for s in "LR")
        assert left[0] - middle == pytest.approx(middle - right[0], abs=1.5)
        assert left[0] > right[0]  # own left is at the right, as the figure faces you
        assert left[1] == pytest.approx(right[1], abs=1.5)
    for zone in ZONES:
        rows = [r for r in zone_rows(marrow, zone) if marrow.controls[r].kind in ON_BODY]
        inside = sum(drawing.paths[zone.key].contains(QPointF(*drawing.dots[r])) for r in rows)
        assert inside * 3 >= len(rows), zone.key
    assert {zone_word(z) for z in ZONES} >= {"the left hand", "the right arm", "the face"}


def test_a_rig_without_a_body_still_gets_a_drawing(renderer: Renderer, tmp_path: Path) -> None:
    rig = read_rig(two_skins(tmp_path / "two.glb"))
    drawing = drawing_from(rig, renderer.picture(drawing_view(rig)))
    assert set(drawing.paths) == {"arm_left", "arm_right"}
    assert np.isfinite(drawing.dots).all()
    assert set(sets_of(Figure(rig, Path()))) == {"L arm", "R arm"}
    assert sum(len(rows) for rows in sets_of(Figure(rig, Path())).values()) == 4


def card(**values: object) -> Entry:
    shown = {"name": "Fist 2", "count": 2, "holds": ("turns", "moves"), **values}
    return Entry(Path("Fist 2.foxcard"), "Marrow/Hands", **shown)


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"region": Region.HANDS, "side": "left"}, "Left hand, 2 controls, turns and moves"),
        ({"region": Region.HANDS, "side": "both"}, "Both hands, 2 controls, turns and moves"),
        ({"region": Region.HEAD}, "Face, 2 controls, turns and moves"),
        (
            {"region": Region.MOUTH, "count": 1, "holds": ("settings",)},
            "Mouth, 1 control, settings only",
        ),
    ],
)
def test_a_card_is_described_in_one_line(values: dict[str, object], words: str) -> None:
    assert describe(card(**values)) == words


def test_dates_are_short_and_nonsense_is_left_out() -> None:
    assert short_date("2026-11-12T09:00:00Z") == "12 Nov"
    for text in ("", "yesterday", "2026-99-01", "2026-11"):
        assert short_date(text) == ""


def test_the_window_remembers_its_columns_and_opens_what_was_open(
    open_window: OpenWindow, hand: Hand
) -> None:
    first = hand.window
    before = first.figure_panel.width()
    handle = first.figure_panel.parentWidget().handle(1)
    hand.drag(handle, [QPoint(0, 60), QPoint(20, 60), QPoint(44, 60)])
    width, path = first.figure_panel.width(), hand.workspace.actor.path
    assert width > before + 20
    assert path.name == "marrow.glb"
    first.overlays.bars.handles.click()
    first.close()
    again = open_window()
    begin(again.window, Wish())
    again.qtbot.waitUntil(lambda: len(again.cards) > 10, timeout=60_000)
    assert again.workspace.actor.path == path
    assert again.window.figure_panel.width() == pytest.approx(width, abs=2)
    assert not again.window.stage.handles_on
    assert not again.window.overlays.bars.handles.isChecked()


def test_opening_a_file_of_ones_own_makes_a_library_to_keep_cards_in(
    open_window: OpenWindow, tmp_path: Path
) -> None:
    hand = open_window()
    rig = two_skins(tmp_path / "own.glb")
    begin(hand.window, Wish(rig=rig, library=tmp_path / "poses"))
    hand.qtbot.waitUntil(
        lambda: any(p.ready for p in hand.workspace.open_libraries.places), timeout=60_000
    )
    assert hand.workspace.actor.path == rig
    assert (tmp_path / "poses" / "library.toml").is_file()
    assert "still empty" in hand.window.sheets.view.empty_text
    hand.workspace.selection.set([0])
    hand.window.stage.setFocus()
    hand.key("c")
    hand.window.capture.form.name.setText("First")
    hand.window.capture.form.sheet.setText("Arms/Bent")
    hand.window.home.cards.save_capture()
    path = tmp_path / "poses" / "Arms" / "Bent" / "First.foxcard"
    hand.qtbot.waitUntil(path.is_file, timeout=60_000)


def test_a_library_that_cannot_be_written_is_explained_and_the_capture_stays_open(
    hand: Hand, library_folder: Path
) -> None:
    (library_folder / "Wall").write_text("a file stands where the folder should be")
    hand.window.figure_panel.sets.choose("L hand")
    hand.window.workspace.capturing.ask()
    hand.window.capture.form.name.setText("Grip")
    hand.window.capture.form.sheet.setText("Wall")
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(hand.window.notice.isVisible, timeout=60_000)
    assert "could not be made" in hand.window.notice.text
    assert hand.workspace.capturing.draft is not None
    assert hand.workspace.capturing.draft.name == "Grip"
    assert hand.window.capture.save.isEnabled()
    hand.window.capture.form.sheet.setText("Marrow/Hands")
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=60_000)


def test_both_arms_are_told_apart_whatever_the_language_calls_them(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One letter beside each, in the colour of its side."""
    said = dict[str, list[str]]()
    draw = QPainter.drawText

    def heard(painter: QPainter, *how: object) -> object:
        said.setdefault(painter.pen().color().name(), []).append(str(how[-1]))
        return draw(painter, *how)

    monkeypatch.setattr(QPainter, "drawText", heard)
    theme, figure = hand.window.theme, hand.window.figure_panel.figure
    hand.qtbot.waitUntil(lambda: figure.drawing is not None, timeout=LONG)
    for word in ("arm", "Oberarm"):
        zones = tuple(replace(z, label=word) if z.label == "arm" else z for z in ZONES)
        monkeypatch.setattr(figure_view, "ZONES", zones)
        said.clear()
        figure.grab()
        assert said[theme.colour("right").name()] == ["R"]
        assert said[theme.colour("left").name()] == ["L"]
        assert sum(words.count(word) for words in said.values()) == 2
