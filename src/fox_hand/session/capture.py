"""Taking a card from the figure: what goes in, and what might be forgotten."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from psygnal import Signal

from fox_hand.core.camera import Camera
from fox_hand.core.controls import Channel, ControlKind, Region, Side
from fox_hand.core.pose import Choice, take
from fox_hand.core.rig import Rig
from fox_hand.library.card import Card
from fox_hand.library.schema import SideName
from fox_hand.session.actor import Actor

REGION_WORDS = {
    Region.HEAD: "Head",
    Region.EYES: "Eyes",
    Region.MOUTH: "Mouth",
    Region.TORSO: "Torso",
    Region.ARMS: "arm",
    Region.HANDS: "hand",
    Region.LEGS: "leg",
}


@dataclass(frozen=True)
class Group:
    """Controls that go in or stay out together.

    Args:
        label: such as "Left hand, fingers".
        rows: its controls.
        own_turn: the top control of a hand, whose turn is rarely meant.
    """

    label: str
    rows: tuple[int, ...]
    own_turn: bool = False


class CaptureDraft:
    """A card before it is saved.

    Args:
        actor: whose pose.
        selected: selected rows; with none, everything that is away from rest is proposed.
    """

    changed = Signal()

    def __init__(self, actor: Actor, selected: Iterable[int]) -> None:
        self.actor = actor
        self.name = ""
        self.sheet = ""
        self.tags: tuple[str, ...] = ()
        self.note = ""
        self.author = ""
        self.licence = ""
        self.frame: Camera | None = None
        rig, state = actor.rig, actor.state
        moved = set(np.flatnonzero(actor.differs()).tolist())
        wanted = set(selected) or moved or set(range(len(rig.controls)))
        self.groups = _groups(rig)
        fingers = wanted - {r for g in self.groups if g.own_turn for r in g.rows}
        # with fingers among the wanted, the hand's own turn is left out unless asked for
        self.rows: set[int] = fingers or wanted
        self.kinds: set[Channel] = {Channel.TURN}
        own = sorted(self.rows)
        if bool((np.abs(state.move[own]) > 1e-6).any()):
            self.kinds.add(Channel.MOVE)
        if bool((np.abs(state.scale[own] - 1) > 1e-6).any()):
            self.kinds.add(Channel.SCALE)
        self.settings: set[int] = {s for row in self.rows for s in rig.settings_of[row]}

    @property
    def choice(self) -> Choice:
        """What goes in now."""
        rig = self.actor.rig
        channels = {r: rig.controls[r].channels & frozenset(self.kinds) for r in self.rows}
        return Choice(channels, frozenset(self.settings))

    def set_rows(self, rows: Iterable[int], included: bool) -> None:
        """Take controls in, with the settings they hold, or leave them out."""
        rows = set(rows)
        held = {s for row in rows for s in self.actor.rig.settings_of[row]}
        if included:
            self.rows |= rows
            self.settings |= held
        else:
            self.rows -= rows
            self.settings -= held
        self.changed.emit()

    def set_kind(self, kind: Channel, included: bool) -> None:
        if included:
            self.kinds.add(kind)
        else:
            self.kinds.discard(kind)
        self.changed.emit()

    def set_setting(self, row: int, included: bool) -> None:
        if included:
            self.settings.add(row)
        else:
            self.settings.discard(row)
        self.changed.emit()

    def moved_but_left_out(self) -> list[int]:
        """Controls that are away from rest but not in the card."""
        return [r for r in np.flatnonzero(self.actor.differs()).tolist() if r not in self.rows]

    def untouched_but_in(self) -> list[int]:
        """Controls in the card that are at rest; only of interest while others are not."""
        differs = self.actor.differs()
        if not differs[sorted(self.rows)].any():
            return []
        return [r for r in sorted(self.rows) if not differs[r]]

    @property
    def region(self) -> Region:
        """Where most of its controls are; a card of several body regions counts as body."""
        counts: dict[Region, int] = {}
        for row in self.rows:
            region = self.actor.rig.controls[row].region
            counts[region] = counts.get(region, 0) + 1
        if not counts:
            return Region.TORSO
        face = {Region.HEAD, Region.EYES, Region.MOUTH}
        if len(counts) > 1 and set(counts) <= face:
            return Region.HEAD
        body = {Region.TORSO, Region.LEGS, Region.ARMS} & set(counts)
        if len(counts) > 2 and body:
            return Region.TORSO
        return max(counts, key=lambda r: counts[r])

    @property
    def side(self) -> SideName:
        """Left or right if all sided controls agree; both if both occur."""
        sides = {self.actor.rig.controls[r].side for r in self.rows} - {Side.CENTRE}
        if len(sides) == 2:
            return "both" if self.region in (Region.HANDS, Region.ARMS) else "centre"
        if not sides:
            return "centre"
        return "left" if Side.LEFT in sides else "right"

    def why_not(self) -> str | None:
        """Why it cannot be saved yet, as a sentence; None if it can."""
        if not self.name.strip():
            return "Give the card a name."
        if not len(take(self.actor.rig, self.actor.state, self.choice)):
            return "Nothing goes in yet: tick at least one row."
        return None

    def card(self) -> Card:
        """The card as it would be saved now."""
        rig, state = self.actor.rig, self.actor.state
        return Card(
            name=self.name.strip(),
            pose=take(rig, state, self.choice),
            region=self.region,
            side=self.side,
            tags=self.tags,
            note=self.note.strip(),
            author=self.author.strip(),
            licence=self.licence.strip(),
            character=rig.name,
            fingerprint=rig.fingerprint,
            frame=self.frame,
        )


def _groups(rig: Rig) -> tuple[Group, ...]:
    found: list[Group] = []
    for region in Region:
        for side in (Side.CENTRE, Side.LEFT, Side.RIGHT):
            rows = [
                i
                for i, c in enumerate(rig.controls)
                if c.region is region and c.side is side and not c.helper
            ]
            if rows:
                found += _split(rig, region, side, rows)
    return tuple(found)


def _split(rig: Rig, region: Region, side: Side, rows: list[int]) -> list[Group]:
    word = REGION_WORDS[region]
    if side is Side.CENTRE:
        name = word.capitalize()
    elif region in (Region.HEAD, Region.EYES, Region.MOUTH, Region.TORSO):
        name = f"{word}, {side.value} side"
    else:
        name = f"{side.value.capitalize()} {word}"
    top = [r for r in rows if rig.parents[r] not in rows]
    below = [r for r in rows if r not in top]
    joints_only = all(rig.controls[r].kind is ControlKind.JOINT for r in top)
    if region is Region.HANDS and side is not Side.CENTRE and below and joints_only:
        return [
            Group(f"{name}, fingers", tuple(below)),
            Group(f"{name}, its own turn", tuple(top), own_turn=True),
        ]
    return [Group(name, tuple(rows))]
