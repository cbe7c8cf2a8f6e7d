"""One figure of a host on our stage. What is pulled here is shown there, what is kept here is one
named step there, and what changes there is seen here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, Protocol

import msgspec
from psygnal import Signal

from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.state import State
from fox_hand.interchange.link.connection import LinkError
from fox_hand.interchange.link.fox_hand_link import CHANGED
from fox_hand.interchange.link.messages import CurveSaid, SwitchSaid, ValuesSaid
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure, KeyStep
from fox_hand.session.link.host_curves import keys_from
from fox_hand.session.link.own_terms import changed_values, state_from, values_from
from fox_hand.session.link.steps_there import (
    RigFacts,
    StepThere,
    curves_of_step,
    is_there,
    poses_of,
    refusals,
    spans_of,
    values_of_poses,
    with_channels,
)
from fox_hand.session.runtime.history import History, Step

Values = dict[str, dict[str, float]]
NAMED = 3  # channels that are named where a host refuses some


class Line(Protocol):
    """What a figure needs of the link to its host."""

    @property
    def name(self) -> str:
        """The host's."""

    @property
    def can(self) -> frozenset[str]:
        """What it can do beyond the least."""

    @property
    def ready(self) -> bool:
        """Whether values may go there."""

    @property
    def watches(self) -> bool:
        """Whether another window leads, and nothing may go there."""

    @property
    def frame(self) -> float | None:
        """The host's frame in sight; None where it does not say."""

    @property
    def settled(self) -> bool:
        """Whether it is not asked to go elsewhere."""

    def go(self, frame: float) -> None:
        """Look at another frame there, and see how everybody stands in it."""

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


class LinkedFigure:
    """Follows one figure: its previews and its steps.

    Args:
        link: the host.
        facts: as the host gave them.
        history: whose steps are kept there, too.

    Attributes:
        keyed, layer: how what is kept goes into the host's time line; no layer is its usual one.
        layers, spans: the host's layers, and from where to where each has keys.
    """

    told = Signal(str)  # a sentence
    keys_changed = Signal()
    shown = Signal()  # something is seen there that was not

    def __init__(self, link: Line, facts: RigFacts, history: History) -> None:
        self.link, self.rig = link, facts.rig
        self._history, self._revision = history, facts.revision
        self.described = facts.description
        self.keyed, self.layer = True, ""
        made, self._unit = facts.made, facts.sidecar.metres_per_unit or 1.0
        self.figure = Figure(made, facts.path, facts.prefix.rstrip(":|") or made.name)
        self.figure.host = link.name or facts.rig
        self.layers, self.spans = facts.layers, spans_of(facts.curves)
        self._keys = keys_from(made, facts.curves, facts.values, self._unit)
        self._scene = state_from(made, facts.values, self._unit)  # how it stands there
        self._base = self._scene  # how it stood here when that was last kept or seen
        self._taking = self._asking = self._shown = self._late = self._elsewhen = False
        self._unsure = False  # whether the first step was sent, and nothing is known of it
        self._heard = facts.revision  # of all that the host told
        self._wanted: State | None = None
        self._over: set[tuple[str, str]] = set()  # channels that are shown there now
        self._steps: list[StepThere] = []  # the first of them is on its way
        self._last = history.undo_step
        self._take(self._scene)
        self.figure.posed.connect(self._posed)
        history.changed.connect(self._step)

    def leave(self) -> None:
        """Follow no more; what is shown there is put back."""
        self.figure.posed.disconnect(self._posed)
        self._history.changed.disconnect(self._step)
        self.hide()

    def hide(self) -> None:
        """Put back what is shown there."""
        if self._shown:
            self._send("put_back", {}, lambda _: None)
        self._shown, self._over = False, set()

    @property
    def waiting(self) -> bool:
        return bool(self._steps) and not self.link.ready

    # -- from here to there -----------------------------------------------------------------

    def _posed(self) -> None:
        if not self._taking:
            self._wanted = self.figure.state
            self.link.soon(self._show_wanted)  # unless it turns out to be a step

    def _show_wanted(self) -> None:
        """Show the newest of what is wanted; one at a time is on its way."""
        wanted = self._wanted
        if self.figure.sampled:  # by our reckoning; the host knows better
            self._wanted = None
            if not self._elsewhen:
                self.look()
            return
        if self._elsewhen:
            return  # another frame is in sight: how it stands there comes from the host
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
        self._send(method, more if values else {}, self._was_shown if values else self._was_back)

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
        self.shown.emit()
        self._asking = False
        self._show_wanted()

    def _was_back(self, answer: dict[str, Any]) -> None:
        self._was_shown(answer)
        if not (self._asking or self._steps or self._shown or self._wanted or self._elsewhen):
            self._take(self._scene)  # to the bit, also where it began with what we reckoned

    def _step(self) -> None:
        """Something was kept, undone or done again here."""
        before, self._last = self._last, self._history.undo_step
        undone = before is not None and self._history.redo_step is before
        step = before if undone else self._last
        if step is None or (step is before and not undone):
            return
        name = self._history.redo_label if undone else self._history.undo_label
        made = self._made(step, name or tr("Undo"), undone=undone)
        if made is None:
            return
        if self.link.watches:
            self.told.emit(tr("Another window leads: {name} is not kept there.", name=made.name))
            self._take(self._scene)
            return
        self._wanted, self._shown, self._over = None, False, set()
        if made.curves and isinstance(step, KeyStep) and not undone:
            self._keys = step.after.keys
            self._take(step.after.at(self.figure.timing.frame))
        else:
            scene = values_from(self.figure.rig, self._scene, self._unit)
            self._take(self._with(scene, made.values))  # with what changed there meanwhile
        self._steps.append(made)
        if not self.link.ready:
            self.told.emit(tr("{name} waits until the host is there again.", name=made.name))
        elif len(self._steps) == 1:
            self._keep_first()

    def _made(self, step: Step, name: str, *, undone: bool) -> StepThere | None:
        """What a step is for the host; None where it is not about this figure."""
        layer = self.layer or None
        curves = curves_of_step(self.figure, step, self._unit)
        if curves is not None:
            return StepThere(name, {}, None, keyed=True, layer=layer, curves=curves, back=undone)
        poses = [p for p in poses_of(step) if p.actor is self.figure]
        if not poses:
            return None
        values = values_of_poses(self.figure, poses, self._unit)
        ids = [channel_id for pose in poses for channel_id in pose.keyed]
        values = values if undone else with_channels(self.figure, values, ids, self._unit)
        if not values:
            return None
        keyed = bool(ids) or (self.keyed and not any(p.card for p in poses))
        frame = self.figure.timing.frame
        return StepThere(name, values, frame, keyed=keyed, layer=layer, back=undone)

    def _keep_first(self) -> None:
        step = self._steps[0]
        self._unsure = False
        about = {"name": step.name, "revision": self._revision}
        if step.back and "undo" in self.link.can:
            self._send("undo", about, self._was_kept)
            return
        if step.back and step.curves:
            self._cannot_take_back()
            return
        if step.frame is not None and self.link.frame not in (None, step.frame):
            self._go_to_keep(step, step.frame)
            return
        self._unsure = True  # until it is answered
        if step.curves and not step.back:
            curves = msgspec.to_builtins(step.curves)
            more = {"curves": curves, "layer": step.layer}
            self._send("set_keys", {**about, **more}, self._was_kept)
            return
        more = {"values": step.values, "keyed": step.keyed, "layer": step.layer}
        self._send("keep", {**about, **more}, self._was_kept)

    def _go_to_keep(self, step: StepThere, frame: float) -> None:
        """It is kept when it has been seen how it stands there."""
        if step.went and self.link.settled:
            self._steps.pop(0)
            self.told.emit(
                tr(
                    "The host does not go to frame {frame:g}: {name} is not kept there.",
                    frame=frame,
                    name=step.name,
                )
            )
            self.look()
            return
        self._steps[0], self._late = replace(step, went=True), True
        self.link.go(frame)

    def _was_kept(self, answer: dict[str, Any]) -> None:
        self._unsure = False
        self._note_revision(answer)
        step = self._steps.pop(0)
        if self._steps:
            self._keep_first()
        else:
            self._show_wanted()
        refused = refusals(answer)
        if refused:
            names = ", ".join(f"{one.control} {one.channel}" for one in refused[:NAMED])
            why = refused[0].why
            self.told.emit(
                tr_n(
                    "The host refused {number} channel: {names} ({why}). The others were kept.",
                    "The host refused {number} channels: {names} ({why}). The others were kept.",
                    len(refused),
                    names=names,
                    why=why,
                )
            )
        if refused or step.back or step.curves:
            self.look()
        self.look_at_keys()
        if not self._steps:
            self._look_at_news()  # somebody did something there after it

    def _note_revision(self, answer: dict[str, Any]) -> None:
        said = answer.get("revision")
        self._revision = said if isinstance(said, int) else self._revision

    def _cannot_take_back(self) -> None:
        step = self._steps.pop(0)
        self.told.emit(tr("Take {name} back in the host: it keeps those keys.", name=step.name))
        self.look()
        self.look_at_keys()

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
        self._heard = max(self._heard, revision)
        if not self._steps:  # a step of ours on its way says its revision itself
            self._look_at_news()

    def _look_at_news(self) -> None:
        if self._heard > self._revision:
            self.look()
            self.look_at_keys()

    def moved_in_time(self) -> None:
        """Another frame is in sight on both sides; how it stands there comes from the host."""
        self._elsewhen, self._shown, self._over = True, False, set()
        self.look()

    def look(self) -> None:
        """See how it stands there now."""
        self._send("values", {}, self._seen)

    def look_at_keys(self) -> None:
        """See what is keyed there now."""
        if "keys" in self.link.can:
            self._send("keys", {"layer": None}, self._keys_seen)

    def _keys_seen(self, answer: dict[str, Any]) -> None:
        try:
            curves = msgspec.convert(answer["curves"], list[CurveSaid])
        except msgspec.ValidationError:
            return  # what moves is seen all the same, frame by frame
        scene = values_from(self.figure.rig, self._scene, self._unit)
        self._keys = keys_from(self.figure.rig, curves, scene, self._unit)
        self.spans = spans_of(curves)
        figure = self.figure
        self._taking = True
        try:
            figure.perform(
                Animation(figure.rig, figure.take.base, self._keys, figure.take.instances),
                figure.state,
            )
        finally:
            self._taking = False
        self.keys_changed.emit()

    def _seen(self, answer: dict[str, Any]) -> None:
        try:
            said = msgspec.convert(answer, ValuesSaid)
        except msgspec.ValidationError:
            self.told.emit(tr("The host speaks in a way that is not understood."))
            return
        changed = said.revision != self._revision
        self._revision = said.revision
        before, late, moved = self._scene, self._late, self._elsewhen
        self._scene = state_from(self.figure.rig, said.values, self._unit)
        self.shown.emit()
        if moved and not self.link.settled:
            return  # it is on its way to yet another frame, and will be looked at there
        self._late = self._elsewhen = False
        if self._steps:
            self._again(said.values, late=late, changed=changed)
        elif moved and self._wanted is not None and not self.figure.sampled:
            # somebody was quicker than the host: what they did counts from what they saw
            self._base = self.figure.take.at(self.figure.timing.frame)
            self._show_wanted()
        elif moved or (self.figure.sampled and not self.figure.take.instances):
            self._take(self._scene)
        elif self._scene.same_bits(before):
            self._show_wanted()
        elif self._shown:  # what is pulled stays, over what is there now
            self._wanted = self.figure.state
            self.told.emit(tr("{name} was changed in the host meanwhile.", name=self.figure.name))
            self._show_wanted()
        else:
            self._take(self._scene)

    def _again(self, values: Values, *, late: bool, changed: bool) -> None:
        """How it stands there, and over it the steps that are not there yet; one that came too late
        is kept once more."""
        if late and changed:
            self.told.emit(tr("{name} was changed in the host meanwhile.", name=self.figure.name))
        if late and self._unsure and is_there(self._steps[0], values):
            self._steps.pop(0)  # only its answer was lost
        self._unsure, now = False, values
        for step in self._steps:
            now = values_from(self.figure.rig, self._with(now, step.values), self._unit)
        self._take(state_from(self.figure.rig, now, self._unit))
        if late and self._steps:
            self._keep_first()

    def linked_again(self) -> None:
        """The host is there again: what waited goes to it, over what is there now."""
        self._asking, self._late = False, bool(self._steps)
        self._over, self._heard = set(), 0  # a program that was started again counts anew
        if self._shown or not self.figure.state.same_bits(self._base):
            self._wanted = self.figure.state
        self.look()
        self.look_at_keys()

    def _take(self, state: State) -> None:
        """Stand here as it does there."""
        figure = self.figure
        self._taking, self._over, self._wanted = True, set(), None
        self._scene = self._base = state
        try:
            figure.perform(Animation(figure.rig, state, self._keys, figure.take.instances), state)
        finally:
            self._taking = False

    # -- spaces and the like ------------------------------------------------------------------

    def ask_switches(self, found: Callable[[list[SwitchSaid]], None]) -> None:
        """Which there are and where they stand."""

        def came(answer: dict[str, Any]) -> None:
            try:
                found(msgspec.convert(answer.get("switches"), list[SwitchSaid]))
            except msgspec.ValidationError:
                found([])

        self._send("switches", {}, came)

    def switch(self, name: str, to: str) -> None:
        """Ask the host to go over, in its own way; what is put on stays a preview over it."""

        def done(answer: dict[str, Any]) -> None:
            self._note_revision(answer)
            self._shown, self._over = False, set()
            self.look()

        self._send("switch", {"name": name, "to": to}, done)

    # -- asking -----------------------------------------------------------------------------

    def _send(
        self, method: str, more: dict[str, Any], done: Callable[[dict[str, Any]], None]
    ) -> None:
        self.link.ask(method, {"rig": self.rig, **more}, done, self._refused)

    def _refused(self, error: LinkError) -> None:
        self._asking = False
        if error.number:
            self._unsure = False
        if error.number == CHANGED:
            self._late = bool(self._steps)
            self.look()  # and is shown or kept again over what is there now
            return
        if not error.number:
            if self.link.ready:  # it said nothing for long: whether it did it is seen there
                self._late = bool(self._steps)
                self.look()
            return  # else it is gone, and what is to be kept waits
        if self._steps and self._steps[0].back:  # it was not its last step: the values, then
            if self._steps[0].curves:
                self._cannot_take_back()
                return
            self._steps[0] = replace(self._steps[0], back=False)
            self._late = True
            self.look()
            return
        self._steps.clear()
        self.told.emit(error.sentence())
        self.look()
