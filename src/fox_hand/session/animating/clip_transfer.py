"""Clips on other characters by the calculation that performances go by, where the card's own rig is
at hand: hips and legs frame by frame, so that feet stand where they stood; and all of a clip that
has so many keys that fitting it moment by moment would take long."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import KIND_OF, ChannelCurve, ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.performance import Performance
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Channel
from fox_hand.core.retarget.transfer import FollowOptions, Transferred
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.card import Card
from fox_hand.session.animating.motion_import import followed_on, pairs_of
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.pose_conversion import state_of

LONGEST = 20_000  # frames
MANY = 60  # keyed moments
PARTS = ("UpperLeg", "LowerLeg", "Foot")
LEGS = tuple(side + part for side in ("left", "right") for part in PARTS)
Names = Mapping[str, str | None]


@dataclass(frozen=True, eq=False)
class ClipFeet:
    """A clip with feet that hold the ground, and with feet that go as its legs do.

    Args:
        held, loose: the two.
        ground: how far a foot or the hips are moved by that, metres, at even distances from the
            first frame to the last ``(F,)``.
    """

    held: Clip
    loose: Clip
    ground: Array

    def map(self, to: Callable[[Clip], Clip]) -> ClipFeet:
        """Both exchanged."""
        return replace(self, held=to(self.held), loose=to(self.loose))


class ClipTransfer:
    """A clip card on a character, followed from its first frame to its last.

    Args:
        card: what was captured, with a clip.
        rig, own: the character, and the card's own rig.
        names: what was said about the names of the two.
    """

    def __init__(self, card: Card, rig: Rig, own: Rig, names: Names) -> None:
        assert card.clip is not None
        self._card, self._clip, self._rig, self._own = card, card.clip, rig, own
        self._names = names
        self._pairs = pairs_of(own, rig, names)

    @property
    def able(self) -> bool:
        """Whether there is anything to follow, and not too much."""
        return bool(self._pairs) and self._clip.length <= LONGEST

    @property
    def dense(self) -> bool:
        """Whether it has a key nearly everywhere, as recordings have."""
        return len(self._clip.frames) > MANY

    def whole(self) -> tuple[Clip, ClipFeet | None]:
        """All that the card holds of what follows it, a key a frame; and what its feet do."""
        held = set(self._card.pose.controls)

        def clip(made: Transferred) -> Clip:
            rows = {m for m, t in made.rows.items() if self._own.controls[t].name in held}
            lines = dict(_joints(made, self._rig, rows, self._frames))
            lines |= self._settings(made)
            return self._closed(Clip(lines, self._clip.length, self._clip.rate))

        made = self._followed()
        return self._both(clip, made) or (clip(made), None)

    def with_feet(self, fitted: Clip) -> tuple[Clip, ClipFeet | None]:
        """A clip that was fitted moment by moment, its feet holding the ground where the card's
        do; unchanged where no foot stands, or where the card does not carry the hips along."""
        roles = {self._rig.controls[m].role: t for m, t in self._pairs.items()}
        if not all(role in roles for role in ("hips", *LEGS)) or not self._moves(roles["hips"]):
            return fitted, None

        def clip(made: Transferred) -> Clip:
            rows = {m for m in made.rows if self._rig.controls[m].role in ("hips", *LEGS)}
            legs = dict(_joints(made, self._rig, rows, self._frames))
            return self._closed(Clip({**fitted.lines, **legs}, fitted.length, fitted.rate))

        return self._both(clip, self._followed()) or (fitted, None)

    def _both(
        self, clip: Callable[[Transferred], Clip], made: Transferred
    ) -> tuple[Clip, ClipFeet] | None:
        """With feet that hold the ground and without; None where no foot does."""
        if made.held is None or not made.held.feet:
            return None
        held = clip(made)
        return held, ClipFeet(held, clip(self._followed(feet=False)), made.held.moved)

    def _moves(self, hips: int) -> bool:
        name = self._own.controls[hips].name
        kinds = (ChannelKind.MOVE, ChannelKind.TURN)
        return any(ChannelId(kind, name) in self._clip.lines for kind in kinds)

    @property
    def _frames(self) -> Array:
        frames = np.arange(np.ceil(self._clip.length - 1e-6) + 1.0)
        frames[-1] = self._clip.length
        return frames

    def _followed(self, *, feet: bool = True) -> Transferred:
        take = Animation(self._own, state_of(self._own, self._card.pose), self._clip.keys)
        states = take.many(self._frames)
        performance = Performance(self._card.name, self._own, states, self._clip.rate)
        return followed_on(performance, self._rig, self._names, FollowOptions(feet=feet))

    def _settings(self, made: Transferred) -> dict[ChannelId, ChannelCurve]:
        """Settings that follow one of the card's."""
        own = {s for held in self._card.pose.controls.values() for s in held.settings}
        moves = np.abs(made.state.settings - self._rig.rest.settings).max(0) > 0
        found = {}
        for row, setting in enumerate(self._rig.settings):
            if moves[row] and made.faces & own:
                channel_id = ChannelId(ChannelKind.SETTING, setting.name)
                values = made.state.settings[:, row : row + 1]
                found[channel_id] = line_of(channel_id, self._frames, values, Ease.LINEAR)
        return found

    def _closed(self, made: Clip) -> Clip:
        """A loop stays one."""
        return made.seamless() if not self._clip.seams() and made.seams() else made


def _joints(
    made: Transferred, rig: Rig, rows: Collection[int], frames: Array
) -> Iterator[tuple[ChannelId, ChannelCurve]]:
    for row in sorted(rows):
        control = rig.controls[row]
        for kind, values in ((Channel.TURN, made.state.turn), (Channel.MOVE, made.state.move)):
            carries = kind is Channel.TURN or control.role == "hips"
            if kind in control.channels and carries:
                channel_id = ChannelId(KIND_OF[kind], control.name)
                yield channel_id, line_of(channel_id, frames, values[:, row], Ease.LINEAR)
