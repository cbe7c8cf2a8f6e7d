"""A character on the stage and how it stands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from psygnal import Signal

from fox_hand.core.animation.curves import SAME, ChannelId, Keys
from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.model.state import State
from fox_hand.core.pose.mirror import mirror, partners_of
from fox_hand.core.rig.locks_limits import Lock, built_in, out_of_plane, within
from fox_hand.core.rig.rebind import NOTHING, Values, merged, values_of, with_values
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Standing
from fox_hand.interchange.sidecar import rig_stem
from fox_hand.session.figures.animation import Animation, Keyed, recorded
from fox_hand.session.figures.playhead import Playhead
from fox_hand.session.figures.sample_cache import SampleCache
from fox_hand.session.runtime.history import History


class Figure:
    """One figure of the cast: a rig by reference and its channel values.

    Args:
        rig, path: the rig and the file it was read from.
        prefix: what tells this member of the cast from others.

    ``host`` names the program that a linked figure stands in; its keys are set there, and ``take``
    only repeats them.
    """

    posed = Signal()
    changed = Signal()  # another rig, other locks, sets or views
    keyed = Signal()  # other keys

    def __init__(self, rig: Rig, path: Path, prefix: str = "") -> None:
        self.rig = rig
        self.path = path
        self.prefix = prefix or rig_stem(path)
        self.host = ""
        self.ground: Array = np.zeros(3)
        self.locks: frozenset[Lock] = built_in(rig)
        self.sets: dict[str, tuple[str, ...]] = {}
        self.views: dict[str, Camera] = {}
        self.after_card: State | None = None  # how the last card left it, if it was not undone
        self.spare: Values = NOTHING  # values of controls that a changed rig no longer has
        self.timing = Playhead()  # the cast's, as soon as it belongs to one
        self._take = Animation(rig, rig.rest)
        self._ahead = SampleCache()
        self._state = rig.rest
        self._sampled = True  # whether that is what the take says
        self._at: Evaluation | None = None

    @property
    def state(self) -> State:
        """How it is shown now."""
        return self._state

    @property
    def take(self) -> Animation:
        """What it does in the whole shot."""
        return self._take

    @property
    def keys(self) -> Keys:
        return self._take.keys

    def perform(self, take: Animation, state: State | None = None) -> None:
        """Do something else in the shot.

        Args:
            take: what; of another reading of the rig it is carried over by name.
            state: how it is shown now, where that is not what the take says.
        """
        take = take.on(self.rig)
        other = take.keys is not self._take.keys or take.instances is not self._take.instances
        if take is not self._take:
            self._take.rest()  # the history may keep it for long
        self._take = take
        if state is not None:
            self.show(state)
        else:
            self.look()
        if other:
            self.keyed.emit()

    def stand(self, state: State) -> None:
        """Stand like this wherever nothing is keyed."""
        self.perform(replace(self._take, base=state))

    @property
    def loose(self) -> bool:
        """Whether it is shown in a way that the next frame takes away. How angles are written is
        no part of it."""
        if self._sampled or self.host:
            return False
        mine, theirs = self._state.arrays()[:4], self._take.at(self.timing.frame).arrays()[:4]
        return any((a != b).any() for a, b in zip(mine, theirs, strict=True))

    @property
    def sampled(self) -> bool:
        """Whether it is shown as its keys say, and nothing was done to it here."""
        return self._sampled

    def last_key(self) -> float | None:
        """The frame of the last key at or before the frame in sight, however it was set."""
        now = self.timing.frame + SAME
        frames = (
            line.frames[: np.searchsorted(line.frames, now)] for line in self.keys.lines.values()
        )
        return max((float(found[-1]) for found in frames if len(found)), default=None)

    def landmark(self, name: str) -> State | None:
        """How it stood after the last card (``card``) or at the last key (``key``); None where
        there was none, and for other names."""
        if name == "card":
            return self.after_card
        frame = self.last_key() if name == "key" else None
        return None if frame is None else self._take.at(frame)

    @property
    def landmarks(self) -> list[str]:
        """Names of those that there are."""
        key = ["key"] if self.last_key() is not None else []
        return (["card"] if self.after_card is not None else []) + key

    @property
    def name(self) -> str:
        """The rig's name, and the prefix where it says more."""
        plain = self.prefix.lower() in (rig_stem(self.path).lower(), self.rig.name.lower())
        return self.rig.name if plain else f"{self.rig.name} {self.prefix}"

    def look(self) -> None:
        """Be shown as the take says at the frame in sight."""
        state, at = self._ahead.get(self._take, self.ground, self.timing.frame)
        if state is not self._state:
            self._state, self._at = state, at
            self.posed.emit()
        self._sampled = True

    def show(self, state: State) -> None:
        """Put the figure into a state."""
        if state is not self._state:
            self._state, self._sampled = state, False
            self._at = None
            self.posed.emit()

    def stand_at(self, ground: Array) -> None:
        """Stand elsewhere on the stage; ``ground`` are metres from the middle, ``(3,)``."""
        self.ground = np.asarray(ground, dtype=np.float64)
        self._at = None
        self.posed.emit()

    @property
    def at(self) -> Evaluation:
        """The evaluated pose, where it stands on the stage."""
        if self._at is None:
            self._at = self.standing_in(self._state).at
        return self._at

    def standing_in(self, state: State) -> Standing:
        """The figure as it would stand in another state."""
        at = self.rig.evaluate(state)
        if self.ground.any():
            nodes = at.nodes.copy()
            nodes[:, :3, 3] += self.ground
            at = replace(at, nodes=nodes)
        return Standing(self.rig, at)

    @property
    def standing(self) -> Standing:
        return Standing(self.rig, self.at)

    @property
    def ground_matrix(self) -> Array:
        """Where the figure stands, ``(4, 4)``."""
        found = np.eye(4)
        found[:3, 3] = self.ground
        return found

    def handles(self) -> Array:
        """World places of all handles, ``(C, 3)``."""
        return self.rig.handle_places(self.at.nodes)

    def differs(self) -> np.ndarray:
        """For each control whether it is away from rest, ``(C,)`` bool."""
        return self._state.differs_from(self.rig.rest, self.rig.settings_of)

    @property
    def listed(self) -> frozenset[int]:
        """Controls that people use as it stands; see :meth:`Rig.listed`."""
        return self.rig.listed(self._state)

    @property
    def view(self) -> int:
        """The number of the view a puppet is seen in."""
        return self.rig.views.seen(self._state)

    def locked_rows(self) -> frozenset[int]:
        """Controls with any locked channel, beside those that would leave the plane of drawings."""
        row, plain = self.rig.control_row, out_of_plane(self.rig)
        return frozenset(row[x.control] for x in self.locks - plain if x.control in row)

    def set_locks(self, locks: frozenset[Lock]) -> None:
        """Lock exactly these channels."""
        if locks != self.locks:
            self.locks = locks
            self.changed.emit()

    def bounded(self, before: State, after: State) -> State:
        """``after`` without what locks and limits forbid."""
        return within(self.rig, self.locks, before, after)

    def flesh_nodes(self, rows: list[int]) -> frozenset[int]:
        """Skeleton nodes whose flesh belongs to some controls: of joints their own, else of
        goals and the like the bones they pull; holders stand on their node. Of a puppet's parts
        the drawings, which hang below them."""
        rig = self.rig
        controls = [rig.controls[r] for r in rows]
        own = {c.node for c in controls if c.kind is ControlKind.JOINT}
        if rig.flat:
            drawings = (c for c in rig.controls if c.helper)
            own |= {c.node for c in drawings if rig.skeleton.parents[c.node] in own}
        return frozenset(own or {n for c in controls for n in self.rig.pulled(c.node)})

    def exchange(self, rig: Rig) -> frozenset[str]:
        """Take a rig that was read again; values follow by name.

        Returns:
            names of controls and settings that now have no place; their values are kept and come
            back when the names do.
        """
        self.after_card = None
        values = merged(self.spare, values_of(self.rig, self._state))
        lifted = built_in(self.rig) - self.locks
        own = self.locks - built_in(self.rig)
        self.rig = rig
        state, self.spare = with_values(rig, values)
        self.locks = (built_in(rig) - lifted) | own
        self._at = None
        kept, _ = with_values(rig, merged(self.spare, values_of(self._take.rig, self._take.base)))
        self._take = Animation(rig, kept, self._take.keys, self._take.instances)
        self._state = state
        self.changed.emit()
        self.posed.emit()
        return frozenset(self.spare.names)


@dataclass(frozen=True)
class Moment:
    """What a figure does, and how it is shown at a frame."""

    take: Animation
    state: State
    frame: float
    after_card: State | None = None

    @property
    def nbytes(self) -> int:
        """Memory of how it is shown."""
        return sum(array.nbytes for array in self.state.arrays())

    @staticmethod
    def of(actor: Figure) -> Moment:
        """What it does now."""
        return Moment(actor.take, actor.state, actor.timing.frame, actor.after_card)

    def bring_back(self, actor: Figure) -> None:
        """Let the figure do this again; elsewhere in the shot it is shown as it is there."""
        rig, state = self.take.rig, self.state
        actor.after_card = self.after_card if actor.rig is rig else None
        if actor.rig is not rig:
            state = with_values(actor.rig, values_of(rig, state))[0]
        here = actor.timing.frame == self.frame
        actor.perform(self.take, state if here else None)


@dataclass(frozen=True)
class PoseStep:
    """A change of pose, for the history. If the actor's rig was read again since, values are
    carried over by name."""

    actor: Figure
    before: Moment
    after: Moment
    label: str
    keyed: tuple[ChannelId, ...] = ()  # of a figure whose host sets the keys
    card: bool = False

    @property
    def frame(self) -> float:
        """Where it is seen."""
        return self.after.frame

    @property
    def nbytes(self) -> int:
        return self.after.take.bytes_beside(self.before.take) + 2 * self.after.nbytes

    def undo(self) -> None:
        self.before.bring_back(self.actor)

    def redo(self) -> None:
        self.after.bring_back(self.actor)


@dataclass(frozen=True)
class KeyStep:
    """A change of keys that is not bound to one frame, for the history."""

    actor: Figure
    before: Animation
    after: Animation
    label: str

    @property
    def nbytes(self) -> int:
        return self.after.bytes_beside(self.before)

    def undo(self) -> None:
        self.actor.perform(self.before)

    def redo(self) -> None:
        self.actor.perform(self.after)


def pose_step(
    actor: Figure, before: State, label: str, how: Keyed | None = None, *, card: bool = False
) -> PoseStep | None:
    """Take down what is shown now as a change from ``before``; None where nothing changed.

    Args:
        how: which keys it sets; None for what the figure's timing says.
        card: whether it is a card that is put on.
    """
    timing, after = actor.timing, actor.state
    how = how or Keyed(timing.frame, timing.ease, auto=timing.auto)
    if not how.channel_ids and (after is before or after.same_bits(before)):
        return None
    start = Moment(actor.take, before, timing.frame, actor.after_card)
    there = tuple(how.channel_ids) if actor.host else ()
    if actor.host:
        how = Keyed(timing.frame, auto=False)
    actor.perform(recorded(actor.take, before, after, how), after)
    if card:
        actor.after_card = after
    return PoseStep(actor, start, Moment.of(actor), label, there, card)


class Edit:
    """A change under way, such as a drag: previews first, then one step or none.

    Args:
        actor, history, label: whose change, and what the step is called.
        symmetric: whether partners follow, mirrored.
        free: neither locks nor limits hold.
    """

    def __init__(
        self,
        actor: Figure,
        history: History,
        label: str,
        *,
        symmetric: bool = False,
        free: bool = False,
    ) -> None:
        self._actor, self._history, self._label = actor, history, label
        self._symmetric, self._free = symmetric, free
        self.before = actor.state

    def preview(self, state: State) -> None:
        """Show an intermediate state within locks and limits; nothing is remembered yet."""
        actor = self._actor
        if self._free:
            actor.show(state)
            return
        after = actor.bounded(self.before, state)
        if self._symmetric:
            after = actor.bounded(self.before, self._mirrored(after))
        actor.show(after)

    def _mirrored(self, state: State) -> State:
        rig = self._actor.rig
        changed = state.differs_from(self.before, rig.settings_of)
        rows = np.flatnonzero(changed).tolist()
        partners = partners_of(rig, rows)
        onto = [p for r, p in partners.items() if p != r and not changed[p]]
        return mirror(rig, state, onto) if onto else state

    def commit(self) -> None:
        """Make what is shown now one undo step; unchanged figures leave no step."""
        step = pose_step(self._actor, self.before, self._label)
        if step is not None:
            self._history.push(step)

    def cancel(self) -> None:
        """Put back what was there, bit for bit."""
        self._actor.show(self.before)


@dataclass(frozen=True)
class ChangeStep:
    """A change of something else about an actor (locks, sets), for the history."""

    label: str
    back: Callable[[], None]
    forth: Callable[[], None]

    def undo(self) -> None:
        self.back()

    def redo(self) -> None:
        self.forth()
