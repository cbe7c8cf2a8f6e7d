"""One figure of a host on our stage. What is pulled here is shown there, what is kept here is one
named step there, and what changes there is seen here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

import msgspec
from psygnal import Signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.state import State
from fox_hand.interchange.described import rig_of
from fox_hand.interchange.link.connection import LinkError
from fox_hand.interchange.link.fox_hand_link import CHANGED
from fox_hand.interchange.sidecar import Sidecar
from fox_hand.session.figures.figure import Figure, PoseStep
from fox_hand.session.link.own_terms import changed_values, state_from, values_from
from fox_hand.session.runtime.history import History, Step, StepsTogether

Values = dict[str, dict[str, float]]
NAMED = 3  # channels that are named where a host refuses some


class Line(Protocol):
    """What a figure needs of the link to its host."""

    @property
    def ready(self) -> bool:
        """Whether values may go there."""

    def ask(
        self,
        method: str,
        params: dict[str, Any],
        done: Callable[[dict[str, Any]], None],
        failed: Callable[[LinkError], None],
    ) -> None:
        """Ask the host, one thing after the other."""

    def soon(self, run: Callable[[], None]) -> None:
        """Do something here, after what is done now."""

    def note_speed(self, answer: dict[str, Any]) -> None:
        """What a preview said of how quick the host is."""


@dataclass(frozen=True)
class _Kept:
    """A step that goes to the host."""

    values: Values
    name: str
    keyed: bool
    layer: str | None


class LinkedFigure:
    """Follows one figure: its previews and its steps.

    Args:
        link: the host.
        rig: the host's id of the rig.
        description, values, revision: as the host gave them.
        history: whose steps are kept there, too.

    Raises:
        FoxHandError: if the description makes no rig.
    """

    told = Signal(str)  # a sentence

    def __init__(
        self,
        link: Line,
        rig: str,
        prefix: str,
        description: Any,
        values: Values,
        revision: int,
        history: History,
    ) -> None:
        self.link, self.rig = link, rig
        self._history, self._revision = history, revision
        self.keyed, self.layer = True, ""
        try:
            sidecar = msgspec.convert(description, Sidecar)
        except msgspec.ValidationError as error:
            raise FoxHandError("link.description", str(error)) from error
        self._unit = sidecar.metres_per_unit or 1.0
        made = rig_of(sidecar, prefix or rig, Path(rig))
        self.figure = Figure(made, Path(rig), prefix.rstrip(":|") or made.name)
        self._scene = state_from(made, values, self._unit)  # how it stands there
        self._base = self._scene  # how it stood here when that was last kept or seen
        self._taking = self._asking = self._shown = False
        self._wanted: State | None = None
        self._over: set[tuple[str, str]] = set()  # channels that are shown there now
        self._steps: list[_Kept] = []  # the first of them is on its way
        self._last = history.undo_step
        self._take(self._scene)
        self.figure.posed.connect(self._posed)
        history.changed.connect(self._step)

    def leave(self) -> None:
        """Follow no more; what is shown there is put back."""
        self.figure.posed.disconnect(self._posed)
        self._history.changed.disconnect(self._step)
        if self._shown:
            self._send("put_back", {}, lambda _: None)
        self._shown = False

    # -- from here to there -----------------------------------------------------------------

    def _posed(self) -> None:
        if not self._taking:
            self._wanted = self.figure.state
            self.link.soon(self._show_wanted)  # unless it turns out to be a step

    def _show_wanted(self) -> None:
        """Show the newest of what is wanted; one at a time is on its way."""
        wanted = self._wanted
        if wanted is None or self._asking or self._steps or not self.link.ready:
            return  # a step that is on its way comes first
        self._wanted = None
        values = self._otherwise(wanted)
        if not values and not self._shown:
            return
        self._asking = True
        method = "show" if values else "put_back"
        more = {"values": self._with_those_shown(values), "revision": self._revision}
        self._shown = bool(values)
        if not values:
            self._over = set()
        self._send(method, more if values else {}, self._was_shown)

    def _with_those_shown(self, values: Values) -> Values:
        """What was shown and is not wanted any more goes back to how it is in the scene."""
        scene = values_from(self.figure.rig, self._scene, self._unit)
        found = {c: dict(held) for c, held in values.items()}
        for control, channel in self._over:
            if channel not in values.get(control, {}):
                found.setdefault(control, {})[channel] = scene[control][channel]
        self._over |= {(c, channel) for c, held in values.items() for channel in held}
        return found

    def _was_shown(self, answer: dict[str, Any]) -> None:
        self.link.note_speed(answer)
        self._asking = False
        self._show_wanted()

    def _step(self) -> None:
        """Something was kept, undone or done again here."""
        before, self._last = self._last, self._history.undo_step
        undone = before is not None and self._history.redo_step is before
        values = self._of_step(before if undone else self._last)
        if not values or not self.link.ready:
            return
        name = self._history.undo_label or tr("Undo")
        self._wanted, self._shown, self._over = None, False, set()
        scene = values_from(self.figure.rig, self._scene, self._unit)
        self._take(self._with(scene, values))  # with what changed there meanwhile
        self._steps.append(_Kept(values, name, self.keyed, self.layer or None))
        if len(self._steps) == 1:
            self._keep_first()

    def _keep_first(self) -> None:
        step = self._steps[0]
        more = {"values": step.values, "name": step.name, "keyed": step.keyed, "layer": step.layer}
        self._send("keep", {**more, "revision": self._revision}, self._was_kept)

    def _was_kept(self, answer: dict[str, Any]) -> None:
        self._revision = int(answer["revision"])
        self._steps.pop(0)
        if self._steps:
            self._keep_first()
        else:
            self._show_wanted()
        refused = answer.get("refused") or []
        if refused:
            names = ", ".join(f"{r['control']} {r['channel']}" for r in refused[:NAMED])
            why = refused[0].get("why", "")
            self.told.emit(
                tr_n(
                    "The host refused {number} channel: {names} ({why}). The others were kept.",
                    "The host refused {number} channels: {names} ({why}). The others were kept.",
                    len(refused),
                    names=names,
                    why=why,
                )
            )
            self.look()

    def _of_step(self, step: Step | None) -> Values:
        """What a step changed, as the figure stands now. Taking a step back brings the whole pose
        of before; what the host did in between is not part of it."""
        found = self._otherwise(self.figure.state)
        poses = [p for p in _poses_of(step) if p.actor is self.figure]
        if not poses:
            return found
        rig = self.figure.rig
        touched: Values = {}
        for pose in poses:
            states = (pose.before.state, pose.after.state)
            was, now = (values_from(rig, state, self._unit) for state in states)
            for control, channels in changed_values(was, now).items():
                touched.setdefault(control, {}).update(channels)
        kept = {
            c: {k: v for k, v in h.items() if k in touched.get(c, {})} for c, h in found.items()
        }
        return {control: held for control, held in kept.items() if held}

    def _otherwise(self, state: State) -> Values:
        """What was changed here since it was last kept or seen, and nothing else: what changed
        there meanwhile is not ours to write."""
        rig = self.figure.rig
        before = values_from(rig, self._base, self._unit)
        return changed_values(before, values_from(rig, state, self._unit))

    def _with(self, scene: Values, values: Values) -> State:
        """How it stands with some values over those of the scene."""
        now = {control: dict(held) for control, held in scene.items()}
        for control, channels in values.items():
            now.setdefault(control, {}).update(channels)
        return state_from(self.figure.rig, now, self._unit)

    # -- from there to here -----------------------------------------------------------------

    def heard(self, revision: int) -> None:
        """Values changed there."""
        if revision > self._revision and not self._steps:
            self.look()  # a step of ours on its way says its revision itself

    def look(self) -> None:
        """See how it stands there now."""
        self._send("values", {}, self._seen)

    def _seen(self, answer: dict[str, Any]) -> None:
        self._revision = int(answer["revision"])
        if self._steps:
            self._again(answer["values"])
            return
        before = self._scene
        self._scene = state_from(self.figure.rig, answer["values"], self._unit)
        if self._scene.same_bits(before):
            self._show_wanted()
        elif self._shown:  # what is pulled stays, over what is there now
            self._wanted = self.figure.state
            self.told.emit(tr("{name} was changed in the host meanwhile.", name=self.figure.name))
            self._show_wanted()
        else:
            self._take(self._scene)

    def _again(self, values: Values) -> None:
        """A step that came too late is kept over what is there now."""
        self.told.emit(tr("{name} was changed in the host meanwhile.", name=self.figure.name))
        now = values
        for step in self._steps:
            now = values_from(self.figure.rig, self._with(now, step.values), self._unit)
        self._take(state_from(self.figure.rig, now, self._unit))
        self._keep_first()

    def _take(self, state: State) -> None:
        """Stand here as it does there."""
        self._taking, self._over = True, set()
        self._scene = self._base = state
        try:
            self.figure.stand(state)
        finally:
            self._taking = False

    # -- asking -----------------------------------------------------------------------------

    def _send(
        self, method: str, more: dict[str, Any], done: Callable[[dict[str, Any]], None]
    ) -> None:
        self.link.ask(method, {"rig": self.rig, **more}, done, self._refused)

    def _refused(self, error: LinkError) -> None:
        self._asking = False
        if error.number == CHANGED:
            self.look()  # and is shown or kept again over what is there now
            return
        self._steps.clear()
        if error.number:
            self.told.emit(error.sentence())
            self.look()


def _poses_of(step: Step | None) -> list[PoseStep]:
    """The changes of pose in a step."""
    if isinstance(step, StepsTogether):
        return [pose for one in step.steps for pose in _poses_of(one)]
    return [step] if isinstance(step, PoseStep) else []
