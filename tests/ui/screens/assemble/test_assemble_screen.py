"""From a folder of somebody's drawings to a puppet on the stage, in the window."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QFileDialog

from fox_hand.core.animation.curves import Keys
from fox_hand.interchange.puppets.puppet_draft import draft_path
from fox_hand.session.puppets.assembly import PuppetAssembly
from fox_hand.ui.exchange.drawing_opening import holds_drawings
from fox_hand.ui.screens.assemble.assemble_screen import AssembleScreen
from tests.held_jobs import HeldJobs
from tests.puppets import as_folder, bird, blob
from tests.ui.conftest import CTRL, LONG, SHIFT, Hand, OpenWindow


@pytest.fixture
def source(tmp_path: Path) -> Path:
    return as_folder(tmp_path / "tern", {"Thing": blob(200, 190, 40, 30, "red")} | bird())


@pytest.fixture
def hand(open_window: OpenWindow, source: Path) -> Hand:
    """The window with the folder dropped onto it."""
    made = open_window()
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(source))])
    made.window.dropEvent(
        QDropEvent(
            QPointF(600, 300),
            Qt.DropAction.CopyAction,
            mime,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
    )
    screen = made.window.screens.assemble
    made.qtbot.waitUntil(screen.isVisible, timeout=LONG)
    made.qtbot.waitUntil(
        lambda: all(screen.images.image(p.seen) is not None for p in puppet(made).parts),
        timeout=LONG,
    )
    return made


def screen_of(hand: Hand) -> AssembleScreen:
    return hand.window.screens.assemble


def assembly(hand: Hand) -> PuppetAssembly:
    found = screen_of(hand).assembly
    assert found is not None
    return found


def puppet(hand: Hand):
    return assembly(hand).puppet


def pull(hand: Hand, start: QPointF, end: QPointF, keys=Qt.KeyboardModifier.NoModifier) -> None:
    middle = (start + end) / 2
    hand.drag(screen_of(hand).canvas, [start, middle, end], keys=keys)


def test_pivots_lines_and_parts_are_pulled_and_every_pull_goes_back(hand: Hand) -> None:
    screen, canvas = screen_of(hand), screen_of(hand).canvas
    row = [part.name for part in screen.list.parts].index("Head")
    hand.click(screen.list.viewport(), screen.list.rect_of(row).center())
    assert (screen.part, canvas.part, screen.panel.name.text()) == ("Head", "Head", "Head")
    head = puppet(hand).part("Head")
    start = canvas.pivot_place(head)
    pull(hand, start, start + QPointF(-30, 12))
    moved = puppet(hand).part("Head")
    scale = canvas.pivot_place(moved).x() - start.x()
    assert moved.pivot[0] < head.pivot[0] and scale == pytest.approx(-30, abs=1.5)
    assert moved.seen.left == head.seen.left  # the drawing stays
    assert screen.panel.pivot_x.value == pytest.approx(moved.pivot[0], abs=0.01)
    hand.key(Qt.Key.Key_Right, SHIFT)
    assert puppet(hand).part("Head").pivot[0] == pytest.approx(moved.pivot[0] + 10)
    hand.click(screen.undo_button, screen.undo_button.rect().center())
    hand.key(Qt.Key.Key_Z, CTRL)  # of the screen, not of the stage behind it
    assert puppet(hand).part("Head").pivot == head.pivot
    middle = canvas.pivot_place(puppet(hand).part("Eye"))
    beak = puppet(hand).part("Beak").seen.left
    pull(hand, canvas.pivot_place(head), canvas.pivot_place(head) + QPointF(20, 0), keys=SHIFT)
    assert puppet(hand).part("Beak").seen.left > beak + 5  # what hangs on it goes along
    assert canvas.pivot_place(puppet(hand).part("Eye")).x() == pytest.approx(middle.x() + 20, abs=2)


def test_a_line_is_pulled_onto_another_part_and_never_in_a_circle(hand: Hand) -> None:
    canvas = screen_of(hand).canvas

    def line(name: str) -> QPointF:
        part = puppet(hand).part(name)
        above = puppet(hand).part(part.above)
        return (canvas.pivot_place(part) + canvas.pivot_place(above)) / 2

    def drawn(name: str) -> QPointF:
        return canvas._rect(puppet(hand).part(name)).center()

    pull(hand, line("Near leg"), drawn("Head"))
    assert puppet(hand).part("Near leg").above == "Head"
    before = puppet(hand)
    pull(hand, line("Head"), drawn("Beak"))
    assert puppet(hand) is before
    assert "cannot hang on Beak" in hand.window.notice.text


def test_guesses_are_shown_answered_and_said_by_the_panel(hand: Hand) -> None:
    screen = screen_of(hand)
    asked = [guess.part for guess, _, _ in screen.guesses.buttons]
    assert "Thing" in asked and screen.guesses.count.text().endswith("of 10 parts")
    guess, _, show = next(b for b in screen.guesses.buttons if b[0].part == "Thing")
    hand.click(show, show.rect().center())
    assert screen.part == "Thing"
    screen.panel.above.setCurrentText("Head")
    screen.panel.above.textActivated.emit("Head")
    assert puppet(hand).part("Thing").above == "Head" and guess not in puppet(hand).guesses
    hand.click(screen.guesses.all, screen.guesses.all.rect().center())
    assert puppet(hand).guesses == () and not screen.guesses.all.isVisible()
    hand.click(screen.panel.side, QPoint(10, 12))
    assert puppet(hand).part("Thing").side.value == "left"
    screen.choose("Beak")
    hand.click(screen.panel.drawings[1], QPoint(20, 20))
    assert puppet(hand).part("Beak").seen.name == "shout"


def test_the_order_is_dragged_and_said_by_keys(hand: Hand) -> None:
    screen = screen_of(hand)
    names = [part.name for part in screen.list.parts]
    last = screen.list.rect_of(len(names) - 1).center()
    hand.drag(screen.list.viewport(), [last, last - QPoint(0, 60), QPoint(last.x(), 1)])
    assert [part.name for part in screen.list.parts] == [names[-1], *names[:-1]]
    screen.list.setFocus()
    hand.key(Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert [part.name for part in screen.list.parts][1] == names[-1]


def test_it_is_made_put_on_the_stage_and_what_was_said_is_kept(
    hand: Hand, source: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    out = tmp_path / "shot" / "tern.glb"
    out.parent.mkdir()
    asked: list[str] = []

    def dialog(*words: object) -> tuple[str, str]:
        asked.append(str(words[2]))
        return str(out), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", dialog)
    screen = screen_of(hand)
    screen.canvas.setFocus()
    assembly(hand).set_pivot(("", "Head"), 236.0, 128.0)
    hand.key(Qt.Key.Key_Return)
    hand.key(Qt.Key.Key_Return)  # asked for twice, it is written once
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=LONG)
    assert asked == [str(source.with_name("tern.glb"))]
    assert hand.workspace.actor.name == "Tern" and hand.workspace.actor.path == out
    assert not screen.isVisible() and draft_path(source).is_file()
    hand.settle()
    hand.workspace.selection.set([hand.row("head")])
    hand.key(Qt.Key.Key_K)
    assert hand.workspace.actor.keys != Keys()
    hand.window.home.drawings.open(source)
    hand.qtbot.waitUntil(screen.isVisible, timeout=LONG)
    assert puppet(hand).part("Head").pivot == (236.0, 128.0)


def test_going_back_keeps_the_draft_and_of_two_readings_the_last_counts(
    hand: Hand, source: Path, tmp_path: Path
) -> None:
    screen = screen_of(hand)
    assembly(hand).set_pivot(("", "Head"), 200.0, 100.0)
    hand.key(Qt.Key.Key_Escape)
    assert not screen.isVisible() and draft_path(source).is_file()
    jobs = HeldJobs()
    hand.window.home.drawings._jobs = jobs
    other = as_folder(tmp_path / "other", {"Body": blob(200, 150, 100, 80, "white")})
    hand.window.home.drawings.open(source)
    hand.window.home.drawings.open(other)
    jobs.release(1)
    assert assembly(hand).source == other
    assembly(hand).set_pivot(("", "Body"), 1.0, 2.0)
    jobs.release(0)
    assert assembly(hand).source == other and screen.isVisible()
    hand.window.home.drawings.open(source)  # others come while something is not kept yet
    jobs.release(2)
    assert assembly(hand).source == source and '"pivot"' in draft_path(other).read_text()
    assembly(hand).set_pivot(("", "Head"), 3.0, 4.0)
    hand.window.close()  # nor is anything lost with the window
    assert PuppetAssembly.of(source).part(("", "Head")).pivot == (3.0, 4.0)


def test_what_holds_no_drawings_is_told_and_the_stage_stays(hand: Hand, tmp_path: Path) -> None:
    hand.key(Qt.Key.Key_Escape)
    (tmp_path / "bad.ora").write_text("no archive")
    hand.window.home.drawings.open(tmp_path / "bad.ora")
    hand.qtbot.waitUntil(lambda: "bad.ora is damaged" in hand.window.notice.text, timeout=LONG)
    assert hand.window.screens.on_stage
    assert not holds_drawings(tmp_path / "bad.txt")
    library = as_folder(tmp_path / "library", {"Chart": blob(9, 9, 9, 9, "red")})
    assert holds_drawings(library)
    (library / "library.toml").write_text("version = 1")
    assert not holds_drawings(library)  # pictures of its charts are no puppet
