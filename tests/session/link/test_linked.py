"""Figures of the simulated host on our stage: pulled, kept, undone, changed there, lost."""

from __future__ import annotations

import queue
import time
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest

from fox_hand.api import Library, Rig, Stance
from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind, Keys
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.model.controls import Channel, Side
from fox_hand.core.model.state import State
from fox_hand.demo.demo_project import shipped
from fox_hand.demo.host.host_scene import ChannelKeys
from fox_hand.demo.host.simulated_host import Habits
from fox_hand.interchange.link import LinkError, connection
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import ControlNotes, Sidecar, write_sidecar
from fox_hand.session.figures.channels import ChannelRef, with_value
from fox_hand.session.figures.figure import Edit, Figure, KeyStep
from fox_hand.session.link.host_link import HostLink, LinkState
from fox_hand.session.link.kept_rigs import keep_description
from fox_hand.session.link.linked_figure import LinkedFigure
from fox_hand.session.link.own_terms import state_from, values_from
from fox_hand.session.link.steps_there import RigFacts
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.jobs import Jobs
from tests.described import ARM, described_rig, write_description
from tests.interchange.link.conftest import Running, start

__all__ = ["start"]  # the fixture
SIDECAR = msgspec.convert(ARM, Sidecar)
HEAD, JAW = "marrow:M_head_ctl", ("marrow:M_jaw_ctl", "jawOpen")


class Desk:
    """A session with a link, its answers handed over when the test says so."""

    def __init__(self, path: Path) -> None:
        self.waiting: queue.Queue[Callable[[], None]] = queue.Queue()
        self.jobs = Jobs(self.waiting.put, threads=1)
        self.history, self.told = History(), list[str]()
        self.link = HostLink(path, self.jobs, self.waiting.put, self.history, path.parent / "kept")
        self.link.told.connect(self.told.append)
        self.link.open()
        self.until(lambda: self.link.state is not LinkState.OPENING)

    def until(self, so: Callable[[], bool], seconds: float = 20.0) -> None:
        end = time.monotonic() + seconds
        while not so():
            assert time.monotonic() < end, "it did not come"
            try:
                self.waiting.get(timeout=0.02)()
            except queue.Empty:
                continue

    @property
    def marrow(self) -> LinkedFigure:
        return next(one for one in self.link.linked if one.rig == "rig-1")

    def turned(self, degrees: float) -> State:
        figure = self.marrow.figure
        rig = figure.rig
        return with_value(rig, figure.state, _ref(figure), degrees)

    def stop(self) -> None:
        self.link.close()
        self.until(self.waiting.empty)
        self.jobs.stop()


def _is(running: Running, degrees: float) -> bool:
    return there(running) == pytest.approx(degrees)


def _ref(figure: Figure) -> ChannelRef:
    return ChannelRef(figure.rig.control_row[HEAD], Channel.TURN, 0)


@pytest.fixture
def desk(start: Callable[..., Running]) -> Iterator[Callable[..., tuple[Desk, Running]]]:
    made: list[Desk] = []

    def make(habits: Habits | None = None, **more: Any) -> tuple[Desk, Running]:
        running = start(habits or Habits(), **more)
        made.append(Desk(running.link.path))
        return made[-1], running

    yield make
    for one in made:
        one.stop()


Make = Callable[..., tuple[Desk, Running]]


def there(running: Running, control: str = HEAD, channel: str = "turn.x") -> float:
    with running.lock:
        return running.host.open.values("rig-1")[control][channel]


def test_what_is_pulled_is_shown_there_and_what_is_kept_is_one_step(desk: Make) -> None:
    here, running = desk()
    assert [f.name for f in here.link.figures] == ["Marrow", "Pim"]
    figure = here.marrow.figure
    edit = Edit(figure, here.history, "Nod")
    for degrees in (5.0, 11.0, 18.0):
        edit.preview(here.turned(degrees))
    here.until(lambda: there(running) == pytest.approx(18.0))
    assert running.host.said == []  # nothing was kept yet
    edit.commit()
    here.until(lambda: running.host.said == ["Nod"])
    with running.lock:
        scene = running.host.open
        keys = scene.figures["rig-1"].layers["Base"]
        assert keys[HEAD, "turn.x"].keys == {1.0: pytest.approx(18.0)}
        assert len(keys) == 1  # what was not pulled is not keyed
    here.until(lambda: not here.marrow._asking)
    here.history.undo()  # with its key, as if it had never been
    here.until(lambda: (HEAD, "turn.x") not in keys_there(running))
    assert there(running) == 0.0
    here.history.redo()
    here.until(lambda: there(running) == pytest.approx(18.0))
    assert figure.state.same_bits(here.marrow._scene)


def keys_there(running: Running) -> dict[tuple[str, str], ChannelKeys]:
    with running.lock:
        return dict(running.host.open.figures["rig-1"].layers["Base"])


def test_a_step_that_is_not_the_last_there_is_undone_by_its_values(desk: Make) -> None:
    here, running = desk()
    edit = Edit(here.marrow.figure, here.history, "Nod")
    edit.preview(here.turned(18.0))
    edit.commit()
    here.until(lambda: running.host.said == ["Nod"])
    row = here.marrow.figure.rig.setting_row[JAW[1]]
    with running.lock:  # somebody opens the mouth in the host
        running.host.open.begin("Mouth")
        running.host.open.set("rig-1", *JAW, 0.4, None)
        running.link.changed("rig-1")
    here.until(lambda: float(here.marrow.figure.state.settings[row]) == pytest.approx(0.4))
    here.history.undo()
    here.until(lambda: there(running) == pytest.approx(0.0))
    assert there(running, *JAW) == 0.4
    with running.lock:
        assert [name for name, _ in running.host.open.steps] == ["Nod", "Mouth", "Nod"]


def test_what_is_kept_while_the_host_is_gone_waits_for_it(desk: Make) -> None:
    here, running = desk()
    edit = Edit(here.marrow.figure, here.history, "Nod")
    edit.preview(here.turned(30.0))
    running.link.drop_all()
    here.until(lambda: here.link.state is LinkState.LOST)
    edit.commit()
    assert here.marrow.waiting and "waits" in here.told[-1]
    with running.lock:  # meanwhile somebody works there
        running.link.changed(running.host.change_something())
    here.link.tick()
    here.until(lambda: running.host.said == ["Nudge", "Nod"])
    assert there(running) == pytest.approx(30.0)
    here.until(lambda: not here.marrow._steps)
    assert _degrees(here.marrow.figure) == pytest.approx(30.0)


def test_a_host_that_was_started_again_is_found_under_its_new_number(
    desk: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    here, running = desk()
    folder = running.link.path.parent
    monkeypatch.setattr(connection, "folder_of_hosts", lambda: folder)
    edit = Edit(here.marrow.figure, here.history, "Nod")
    running.stop()
    here.until(lambda: here.link.state is LinkState.LOST)
    edit.preview(here.turned(30.0))
    edit.commit()
    again = Running(Habits(), folder, 5.0, moves=False, number=999_999)
    try:
        here.link.tick()
        here.until(lambda: again.host.said == ["Nod"])
        assert here.link.path == again.link.path and here.link.state is LinkState.LIVE
        here.until(lambda: not here.marrow._steps)
        with again.lock:
            again.link.changed(again.host.change_something())
        here.until(lambda: _degrees(here.marrow.figure) == pytest.approx(31.0))
    finally:
        again.stop()


def test_what_waited_is_keyed_at_the_frame_it_was_kept_at(desk: Make) -> None:
    here, running = desk(moves=True)
    figure = here.marrow.figure
    figure.timing.put(24.0)
    here.link.go(24.0)
    here.until(lambda: running.host.open.frame == 24.0 and not here.marrow._elsewhen)
    edit = Edit(figure, here.history, "Nod")
    running.link.drop_all()
    here.until(lambda: here.link.state is LinkState.LOST)
    edit.preview(here.turned(30.0))
    edit.commit()
    with running.lock:
        running.host.go(60.0)  # somebody works at another frame meanwhile
    here.link.tick()
    here.until(lambda: running.host.said == ["Nod"])
    assert keys_there(running)[HEAD, "turn.x"].keys == {24.0: pytest.approx(30.0)}
    assert running.host.open.frame == 24.0
    here.until(lambda: not here.marrow._steps)


def test_of_frames_that_are_asked_for_quickly_the_last_counts(desk: Make) -> None:
    here, running = desk(moves=True)
    moved: list[float | None] = []
    here.link.moved.connect(lambda: moved.append(here.link.frame))
    gone = running.host.go
    frames: list[float] = []
    running.host.go = lambda frame: (frames.append(frame), gone(frame))  # type: ignore[method-assign]
    for frame in (10.0, 11.0, 12.0, 13.0, 44.0):
        here.marrow.figure.timing.put(frame)
        here.marrow.figure.look()
        here.link.go(frame)
    assert here.link.heading == 44.0
    here.until(lambda: here.link.settled and not here.marrow._elsewhen)
    assert frames == [10.0, 44.0] and here.link.frame == 44.0
    assert moved == []  # nobody is sent back to a frame from before
    row = here.marrow.figure.rig.control_row["marrow:M_chest_ctl"]
    assert np.degrees(here.marrow.figure.state.euler[row, 1]) == pytest.approx(5.0)


def test_a_step_at_a_frame_that_the_host_does_not_have_is_said(desk: Make) -> None:
    here, running = desk(moves=True)
    running.host.go = lambda _: None  # type: ignore[method-assign]
    figure = here.marrow.figure
    figure.timing.put(500.0)
    edit = Edit(figure, here.history, "Nod")
    edit.preview(here.turned(30.0))
    edit.commit()
    here.until(lambda: bool(here.told))
    assert "does not go to frame 500" in here.told[0] and running.host.said == []
    here.until(lambda: not here.marrow._steps and _degrees(figure) == 0.0)


def test_a_link_that_rests_shows_nothing_and_goes_on(desk: Make) -> None:
    here, running = desk()
    edit = Edit(here.marrow.figure, here.history, "Nod")
    edit.preview(here.turned(30.0))
    here.until(lambda: there(running) == pytest.approx(30.0))
    here.link.pause(on=True)
    here.until(lambda: there(running) == 0.0)
    edit.preview(here.turned(33.0))
    here.link.pause(on=False)
    here.until(lambda: there(running) == pytest.approx(33.0))
    edit.cancel()
    here.until(lambda: not running.link._previews)


def test_another_frame_is_the_host_s_and_its_keys_are_seen(desk: Make) -> None:
    here, running = desk(moves=True)
    figure, chest = here.marrow.figure, "marrow:M_chest_ctl"
    channel = ChannelId(ChannelKind.TURN, chest)
    assert figure.keys.lines[channel].frames.tolist() == [1.0, 12.0, 24.0, 44.0, 60.0, 72.0]
    row = figure.rig.control_row[chest]
    figure.timing.put(24.0)
    figure.look()  # what we reckon, until the host has said it
    here.link.go(24.0)
    here.until(lambda: running.host.open.frame == 24.0 and not here.marrow._elsewhen)
    assert np.degrees(figure.state.euler[row, 1]) == pytest.approx(-3.0)
    with running.lock:
        assert not running.link._previews and not running.host.open.steps


def test_a_key_step_goes_there_as_curves_with_handles(desk: Make) -> None:
    here, running = desk()
    figure, jaw = here.marrow.figure, ChannelId(ChannelKind.SETTING, JAW[1])
    frames, values = np.array([3.0, 9.0, 21.0]), np.array([[0.0], [0.8], [0.1]])
    eases = np.full(3, int(Ease.SMOOTH), np.uint8)
    line = ChannelCurve(frames, values, eases, np.zeros(3, np.intp))
    before = figure.take
    figure.perform(before.with_keys(Keys({jaw: line})))
    here.history.push(KeyStep(figure, before, figure.take, "Lay in Yawn"))
    here.until(lambda: running.host.said == ["Lay in Yawn"])
    curve = keys_there(running)[JAW]
    assert curve.keys == pytest.approx({3.0: 0.0, 9.0: 0.8, 21.0: 0.1})
    for frame in np.arange(3.0, 21.5, 0.5).tolist():
        ours = float(line.track.sample(np.array([frame]))[0, 0])
        assert curve.at(frame) == pytest.approx(ours, abs=0.01)
    here.history.undo()
    here.until(lambda: JAW not in keys_there(running))


def test_what_is_put_back_leaves_no_bit(desk: Make) -> None:
    here, running = desk()
    with running.lock:
        before = running.host.open.values("rig-1")
    figure = here.marrow.figure
    edit = Edit(figure, here.history, "Nod")
    edit.preview(here.turned(40.0))
    here.until(lambda: there(running) == pytest.approx(40.0))
    edit.cancel()
    here.until(lambda: not running.link._previews)
    with running.lock:
        assert running.host.open.values("rig-1") == before
        assert running.host.open.steps == []


def test_what_changes_there_is_seen_here_and_never_written_over(desk: Make) -> None:
    here, running = desk()
    figure = here.marrow.figure
    with running.lock:
        running.link.changed(running.host.change_something())
    here.until(lambda: _degrees(figure) == pytest.approx(1.0))
    assert here.history.undo_label is None  # it is no step of ours
    edit = Edit(figure, here.history, "Jaw")
    row = figure.rig.setting_row[JAW[1]]
    jaw = ChannelRef(figure.rig.settings[row].control, None, row)
    edit.preview(with_value(figure.rig, figure.state, jaw, 0.5))
    here.until(lambda: there(running, *JAW) == 0.5)
    with running.lock:  # somebody nods the head while the jaw is pulled
        running.link.changed(running.host.change_something())
    here.until(lambda: any("meanwhile" in sentence for sentence in here.told))
    here.until(lambda: here.marrow._revision == running.link.revisions["rig-1"])
    edit.commit()
    here.until(lambda: "Jaw" in running.host.said)
    assert there(running) == pytest.approx(2.0)  # their nod stayed
    assert there(running, *JAW) == 0.5
    assert _degrees(figure) == pytest.approx(2.0)  # and is seen here
    here.until(lambda: not here.marrow._steps)
    here.history.undo()
    here.until(lambda: there(running, *JAW) == 0.0)
    assert there(running) == pytest.approx(2.0)  # undoing ours takes nothing of theirs
    assert _degrees(figure) == pytest.approx(2.0)


def _degrees(figure: Figure) -> float:
    return float(np.degrees(figure.state.euler[figure.rig.control_row[HEAD], 0]))


def test_of_many_pulls_a_slow_host_gets_the_newest(desk: Make) -> None:
    here, running = desk(Habits(slow=0.12))
    edit = Edit(here.marrow.figure, here.history, "Nod")
    for number in range(40):
        edit.preview(here.turned(float(number)))
    here.until(lambda: there(running) == pytest.approx(39.0))
    assert running.host.previews < 6
    for number in range(4):
        edit.preview(here.turned(50.0 + number))
        here.until(partial(_is, running, 50.0 + number))
        here.until(lambda: not here.marrow._asking)
    assert here.link.state is LinkState.SLOW
    edit.cancel()


def test_a_lost_host_keeps_what_it_had_and_is_found_again(desk: Make) -> None:
    here, running = desk()
    edit = Edit(here.marrow.figure, here.history, "Nod")
    edit.preview(here.turned(30.0))
    here.until(lambda: there(running) == pytest.approx(30.0))
    running.link.drop_all()
    here.until(lambda: here.link.state is LinkState.LOST)
    assert here.link.last_seen is not None
    here.until(lambda: there(running) == 0.0)  # by its own watch
    for _ in range(3):  # pressed again while it is under way
        here.link.tick()
    done: list[None] = []
    here.jobs.run(lambda _: None, done.append, lambda _: None)  # comes after all of them
    here.until(lambda: bool(done))
    assert here.link.state is LinkState.LIVE
    assert len(running.link._guests) == 1
    edit.preview(here.turned(31.0))
    here.until(lambda: there(running) == pytest.approx(31.0))
    edit.cancel()
    here.until(lambda: not running.link._previews)


def test_what_a_stubborn_host_refuses_is_said_and_seen(desk: Make) -> None:
    here, running = desk(Habits(stubborn=True))
    ((control, channel),) = running.host.open.figures["rig-1"].locked
    figure = here.marrow.figure
    ref = ChannelRef(figure.rig.control_row[control], Channel.TURN, 0)
    edit = Edit(figure, here.history, "Little finger")
    edit.preview(with_value(figure.rig, figure.state, ref, 20.0))
    edit.commit()
    here.until(lambda: bool(here.told))
    assert f"{control} {channel}" in here.told[0] and "it is locked" in here.told[0]
    here.until(lambda: ref.value(figure.rig, figure.state) == 0.0)


class Scripted:
    """A link whose answers the test hands over, in whichever order."""

    name, can, ready, watches = "Scripted", frozenset({"keys", "undo"}), True, False
    frame: float | None = None
    settled = True

    def go(self, frame: float) -> None:
        self.frame = frame

    def __init__(self) -> None:
        self.asked: list[tuple[str, dict[str, Any], Callable[..., None], Callable[..., None]]] = []

    def ask(self, method: str, params: dict[str, Any], done: Any, failed: Any) -> None:
        self.asked.append((method, params, done, failed))

    def soon(self, run: Callable[[], None]) -> None:
        run()

    def note_speed(self, answer: dict[str, Any]) -> None: ...

    def take(self, method: str) -> tuple[dict[str, Any], Callable[..., None], Callable[..., None]]:
        """The oldest question of this kind."""
        one = next(asked for asked in self.asked if asked[0] == method)
        self.asked.remove(one)
        return one[1:]


def scripted() -> tuple[LinkedFigure, Scripted, History, dict[str, dict[str, float]]]:
    rig, link, history = described_rig(ARM), Scripted(), History()
    values = values_from(rig, rig.rest, 0.01)
    facts = RigFacts("r", "", ARM, SIDECAR, rig, Path("arm.foxrig.json"), values, 1)
    return LinkedFigure(link, facts, history), link, history, values


def test_a_step_whose_answer_is_lost_is_not_made_twice() -> None:
    linked, link, history, values = scripted()
    rig = linked.figure.rig
    ref = ChannelRef(rig.control_row["hand_ctl_L"], Channel.TURN, 0)
    for degrees in (10.0, 20.0):
        edit = Edit(linked.figure, history, "Turn")
        edit.preview(with_value(rig, linked.figure.state, ref, degrees))
        edit.commit()
    first, _, failed = link.take("keep")
    assert first["values"] == {"hand_ctl_L": {"turn.x": pytest.approx(10.0)}}
    failed(LinkError("The host does not answer."))  # though it did it
    link.asked = [asked for asked in link.asked if asked[0] == "values"][-1:]
    values["hand_ctl_L"]["turn.x"] = 10.0
    link.take("values")[1]({"values": values, "revision": 2})
    second = link.take("keep")[0]
    assert second["revision"] == 2
    assert second["values"] == {"hand_ctl_L": {"turn.x": pytest.approx(20.0)}}
    assert not any(method == "keep" for method, *_ in link.asked)


def test_rigs_that_come_and_go_there_come_and_go_here(desk: Make) -> None:
    here, running = desk()
    marrow, rigs = here.marrow.figure, running.host.rigs()
    changes: list[int] = []
    here.link.figures_changed.connect(lambda: changes.append(len(here.link.linked)))
    with running.lock:
        running.host.rigs = lambda: rigs[:1]  # type: ignore[method-assign]
        running.link.rigs_changed()
    here.until(lambda: changes == [1])
    described = dict(running.host.describe("rig-1"), name="Marrow, taller")
    with running.lock:
        running.host.rigs = lambda: rigs  # type: ignore[method-assign]
        running.host.describe = lambda rig: (  # type: ignore[method-assign]
            described if rig == "rig-1" else running.host.open.figures[rig].description
        )
        running.link.scene_changed("changed")
    here.until(lambda: changes[-1] == 2)
    assert here.marrow.figure is not marrow and here.marrow.figure.rig.name == "Marrow, taller"


def test_what_makes_no_sense_is_told_and_nothing_moves() -> None:
    linked, link, _, _ = scripted()
    told = list[str]()
    linked.told.connect(told.append)
    before = linked.figure.state
    for number, odd in enumerate(({}, {"values": 3}, {"values": {"a": {"b": "c"}}}), 4):
        linked.heard(number)
        link.take("values")[1]({**odd, "revision": number} if odd else odd)
        assert told.pop() and linked.figure.state is before
    link.take("keys")[1]({"curves": [{"control": 3}]})
    assert not linked.figure.keys


def test_what_is_corrected_about_a_rig_stays_while_the_host_says_the_same(tmp_path: Path) -> None:
    which = ("Arm", "../../id 7")
    path, said = keep_description(tmp_path, "../Host", which, ARM)
    assert path.is_relative_to(tmp_path) and path.parent.parent == tmp_path
    said.controls["hand_ctl_R"] = ControlNotes(side=Side.RIGHT)
    said.sets["grip"] = ["hand_ctl_L"]
    path.write_bytes(write_sidecar(said))
    again, kept = keep_description(tmp_path, "../Host", which, ARM)
    assert again == path and kept.controls["hand_ctl_R"].side == "right"
    changed = {**ARM, "name": "Longer arm"}
    _, fresh = keep_description(tmp_path, "../Host", which, changed)
    assert "hand_ctl_R" not in fresh.controls and fresh.sets == {"grip": ["hand_ctl_L"]}


def test_of_two_windows_the_second_watches(desk: Make) -> None:
    here, running = desk()
    other = Desk(running.link.path)
    assert other.link.state is LinkState.WATCHING
    edit = Edit(other.marrow.figure, other.history, "Nod")
    edit.preview(other.turned(9.0))
    edit.commit()
    here_edit = Edit(here.marrow.figure, here.history, "Turn")
    here_edit.preview(here.turned(4.0))
    here_edit.commit()
    other.until(lambda: _degrees(other.marrow.figure) == pytest.approx(4.0))
    assert there(running) == pytest.approx(4.0)
    here.link.close()
    here.until(lambda: here.link._connection is None)
    other.until(lambda: other.link.state is LinkState.LIVE)
    other.stop()


def test_values_through_the_link_and_through_a_file_are_one_pose(
    desk: Make, tmp_path: Path
) -> None:
    here, running = desk()
    description = running.host.describe("rig-1")
    path = write_description(tmp_path / "host.foxrig.json", dict(description))
    rig, linked = Rig.open(path), here.marrow.figure
    wave = Library.open(shipped() / "library").cards("sheet:Body wave")[0]
    worn = rig.rest.wearing(Library.open(shipped() / "library").card(wave))
    edit = Edit(linked, here.history, "Wave")
    edit.preview(worn.state)
    edit.commit()
    here.until(lambda: running.host.said == ["Wave"])
    with running.lock:
        values = running.host.open.values("rig-1")
    back = Stance(rig, state_from(rig.core, values, 0.01))
    first, second = worn.matrices(), back.matrices()
    assert max(np.abs(np.subtract(first[n], second[n])).max() for n in first) < 1e-6
    again = values_from(rig.core, back.state, 0.01)
    for control, held in values.items():
        assert {k: again[control][k] for k in held} == pytest.approx(held, abs=1e-9)
    assert read_rig(path).fingerprint == linked.rig.fingerprint
