"""Two poses of one character, or two clips at one moment: what differs, and each difference by
itself."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from psygnal import Signal

from fox_hand.base.language import tr
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelId, ChannelKind, place_of
from fox_hand.core.animation.sampler import Sampler
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Channel, Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.difference import ANGLE, DISTANCE, VALUE
from fox_hand.core.pose.pose import ChannelFilter, Pose, bind, take
from fox_hand.core.rig.rig import Rig
from fox_hand.session.applying.mix import Fit, Mixed
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.pose_conversion import choice_of, state_of

MOMENTS = tuple(i / 8 for i in range(9))  # where clips are looked at to begin with


class DifferingPart(StrEnum):
    """What of a control differs."""

    TURN = "turn"
    MOVE = "move"
    SCALE = "scale"
    SETTING = "setting"


@dataclass(frozen=True)
class Compared:
    """One of the two.

    Args:
        name: for people.
        words: where it is from, such as ``Face, 9 Nov, Ines B.``.
        state: the character at rest, wearing it.
        choice: what it holds.
        ready: the card it is, None for the figure.
        motion: of a clip, the character's state at a share 0...1 of its way.
    """

    name: str
    words: str
    state: State
    choice: ChannelFilter
    ready: Mixed | None = None
    motion: Callable[[float], State] | None = None

    def at(self, share: float) -> Compared:
        """As it stands at a share of the way."""
        return self if self.motion is None else replace(self, state=self.motion(share))


@dataclass(frozen=True)
class Row:
    """One difference.

    Args:
        key: kind and row of the control or setting.
        label, word: whose, and which part of it.
        first, second: values as shown.
        unit: behind the values.
        low, high: ends of the bar.
        size: for sorting: a quarter turn, 20 cm and a whole unit count alike.
        region: where it belongs.
        options: of a choice the words for its values.
    """

    key: tuple[DifferingPart, int]
    label: str
    word: str
    first: float
    second: float
    unit: str
    low: float
    high: float
    size: float
    region: Region
    options: tuple[str, ...] = ()


def of_card(rig: Rig, ready: Mixed, words: str) -> Compared:
    """A card as it goes on a character; ``words`` say where it is from."""
    pose = ready.card.pose
    return Compared(ready.card.name, words, state_of(rig, pose), choice_of(rig, pose), ready)


def of_clip(rig: Rig, ready: Mixed, clip: Clip, words: str) -> Compared:
    """A clip as a character plays it, to be looked at from its beginning to its end."""
    base = rig.rest
    sampler = Sampler(rig, clip.keys)
    channels: dict[int, frozenset[Channel]] = {}
    settings = set[int]()
    for channel_id in clip.lines:
        row = place_of(rig, channel_id)
        if row is not None and channel_id.kind is ChannelKind.SETTING:
            settings.add(row)
        elif row is not None:
            kind = Channel(channel_id.kind.value)
            channels[row] = channels.get(row, frozenset()) | {kind}
    plays = replace(ready, card=replace(ready.card, clip=clip))
    return Compared(
        ready.card.name,
        words,
        sampler.at(base, 0.0),
        ChannelFilter(channels, frozenset(settings)),
        plays,
        lambda share: sampler.at(base, share * clip.length),
    )


def of_figure(actor: Figure, like: Compared) -> Compared:
    """The figure as it stands, of what another pose holds; beside a clip, what it does from the
    frame in sight on."""
    name, words = tr("The figure"), tr("{name} as it stands", name=actor.name)
    clip = like.ready.card.clip if like.ready is not None else None
    if clip is None or not (actor.take.keys or actor.take.instances):
        return Compared(name, words, actor.state, like.choice)
    first, take = actor.timing.frame, actor.take
    length = clip.length * actor.timing.rate / clip.rate
    words = tr("{name} from frame {first:g} on", name=actor.name, first=first)
    return Compared(
        name, words, take.at(first), like.choice, None, lambda s: take.at(first + s * length)
    )


class Comparison:
    """Two poses on one character, and which differences are chosen.

    Args:
        actor: the character.
        first, second: the two.
    """

    changed = Signal()

    def __init__(self, actor: Figure, first: Compared, second: Compared) -> None:
        self.actor, self.first, self.second = actor, first, second
        self.share = 0.0  # of the way, where clips are compared
        self.chosen: frozenset[tuple[DifferingPart, int]] = frozenset()
        self.pointed: tuple[DifferingPart, int] | None = None
        self.shared = _together(first.choice, second.choice)
        self._states: tuple[State, State] | None = None
        self.rows: tuple[Row, ...] = ()
        self._look(max(MOMENTS, key=self._apart) if self.moves else 0.0)

    @property
    def moves(self) -> bool:
        """Whether there is a way to look along."""
        return self.first.motion is not None or self.second.motion is not None

    def look_at(self, share: float) -> None:
        """Compare them at another moment of their way, 0...1."""
        if self.moves and share != self.share:
            self._look(share)
            self.changed.emit()

    def _look(self, share: float) -> None:
        self.share, self._states = share, None
        self.first, self.second = self.first.at(share), self.second.at(share)
        self.rows = tuple(sorted(self._differences(), key=lambda row: -row.size))

    def _apart(self, share: float) -> float:
        self._look(share)
        return sum(row.size for row in self.rows)

    @property
    def count(self) -> int:
        """Turns, moves, scales and settings that both hold: as many as could differ."""
        kinds = sum(len(kinds) for kinds in self.shared.channels.values())
        return kinds + len(self.shared.settings)

    def only(self, second: bool) -> tuple[str, ...]:
        """Labels of what only one of the two holds."""
        mine, theirs = self.first.choice, self.second.choice
        if second:
            mine, theirs = theirs, mine
        rig = self.actor.rig
        rows = [r for r, kinds in mine.channels.items() if kinds and r not in theirs.channels]
        settings = mine.settings - theirs.settings
        return (
            *(rig.word(r) for r in rows),
            *(rig.setting_word(s) for s in sorted(settings)),
        )

    def states(self) -> tuple[State, State]:
        """The character wearing the first and the second, all else as :meth:`around` says."""
        if self._states is None:
            self._states = self._on_figure(self.first), self._on_figure(self.second)
        return self._states

    @property
    def giver(self) -> Compared:
        """Whose differences are put on: the second, or the card where the second is the figure."""
        return self.second if self.second.ready is not None else self.first

    def changed_only(self) -> State:
        """One of the two with only the chosen differences, or the one pointed at, of the giver."""
        keys = self.chosen or ({self.pointed} if self.pointed is not None else set())
        first, second = self.states()
        wearing, other = (first, second) if self.giver is self.second else (second, first)
        return _with(wearing, other, keys)

    def toggle(self, key: tuple[DifferingPart, int]) -> None:
        """Choose a difference, or leave it."""
        self.chosen = self.chosen ^ {key}
        self.changed.emit()

    def hold(self, keys: frozenset[tuple[DifferingPart, int]]) -> None:
        """Choose these differences and no others."""
        if keys != self.chosen:
            self.chosen = keys
            self.changed.emit()

    def point(self, key: tuple[DifferingPart, int] | None) -> None:
        """A difference is looked at."""
        if key != self.pointed:
            self.pointed = key
            self.changed.emit()

    def swap(self) -> None:
        """The first and the second change places."""
        self.first, self.second = self.second, self.first
        self.chosen, self.pointed = frozenset(), None
        self._look(self.share)
        self.changed.emit()

    def halfway(self) -> Pose:
        """Halfway from the first to the second, of what both hold."""
        rig, shared = self.actor.rig, self.shared
        bound = bind(take(rig, self.second.state, shared), rig)
        return take(rig, blend(self.first.state, bound, 0.5, rig.setting_rules), shared)

    def part(self) -> Mixed | None:
        """Only the chosen differences, with the giver's values, as a card."""
        if not self.chosen:
            return None
        channels: dict[int, frozenset[Channel]] = {}
        settings = set[int]()
        for kind, row in self.chosen:
            if kind is DifferingPart.SETTING:
                settings.add(row)
            else:
                channels[row] = channels.get(row, frozenset()) | {Channel(kind.value)}
        pose = take(self.actor.rig, self.giver.state, ChannelFilter(channels, frozenset(settings)))
        made = self.giver.ready
        if made is None:
            return None
        card = replace(made.card, pose=pose)
        if card.clip is not None:
            card = replace(card, clip=card.clip.only(map(self._channel_id, self.chosen)))
        count = len(pose.controls)
        return Mixed(made.entry, card, Fit(count, count, ()))

    # -- inside ---------------------------------------------------------------------------

    def _channel_id(self, key: tuple[DifferingPart, int]) -> ChannelId:
        kind, row = key
        rig = self.actor.rig
        named = rig.settings[row].name if kind is DifferingPart.SETTING else rig.controls[row].name
        return ChannelId(ChannelKind(kind.value), named)

    def around(self) -> State:
        """How the figure stands beside what is compared: as it does, but two cards, and hands,
        which are hidden where arms hang, are looked at as in the first card's picture."""
        rig, ready = self.actor.rig, self.first.ready or self.second.ready
        cards = self.first.ready is not None and self.second.ready is not None
        held = [*self.shared.channels, *(rig.settings[s].control for s in self.shared.settings)]
        hands = all(rig.controls[row].region is Region.HANDS for row in held)
        if ready is None or not (cards or hands):
            return self.actor.state
        return state_of(rig, ready.card.around)

    def _on_figure(self, one: Compared) -> State:
        state, rows = self.around(), one.choice.channels
        keys = {(DifferingPart(k.value), r) for r, kinds in rows.items() for k in kinds}
        keys |= {(DifferingPart.SETTING, s) for s in one.choice.settings}
        return _with(state, one.state, keys)

    def _differences(self) -> Iterator[Row]:
        for row, kinds in self.shared.channels.items():
            if Channel.TURN in kinds:
                yield from self._turn(row)
            if Channel.MOVE in kinds:
                yield from self._move(row)
            if Channel.SCALE in kinds:
                yield from self._scale(row)
        for row in sorted(self.shared.settings):
            yield from self._setting(row)

    def _turn(self, row: int) -> Iterator[Row]:
        rig, a, b = self.actor.rig, self.first.state, self.second.state
        angle = float(np.degrees(angle_between(a.turn[row], b.turn[row])))
        if angle > ANGLE:
            eulers = [np.degrees(state.shown(rig.orders)[row]) for state in (a, b)]
            axis = int(np.argmax(np.abs(eulers[1] - eulers[0])))
            values = float(eulers[0][axis]), float(eulers[1][axis])
            word = rig.controls[row].axis_words[axis]
            yield self._row(
                DifferingPart.TURN, row, word, values, "°", _ends(values, 45.0), angle / 90
            )

    def _move(self, row: int) -> Iterator[Row]:
        way = self.second.state.move[row] - self.first.state.move[row]
        gap = float(np.linalg.norm(way))
        if gap > DISTANCE:
            axis = int(np.argmax(np.abs(way)))
            moves = self.first.state.move[row, axis], self.second.state.move[row, axis]
            values = float(moves[0] * 100), float(moves[1] * 100)
            word, ends = tr("move {value}", value="xyz"[axis]), _ends(values, 20.0)
            yield self._row(DifferingPart.MOVE, row, word, values, " cm", ends, gap / 0.2)

    def _scale(self, row: int) -> Iterator[Row]:
        a, b = self.first.state.scale[row], self.second.state.scale[row]
        axis = int(np.argmax(np.abs(a - b)))
        values = float(a[axis]), float(b[axis])
        change = abs(values[1] - values[0])
        if change > VALUE:
            yield self._row(
                DifferingPart.SCALE, row, "scale", values, "", (0.0, max(2.0, *values)), change
            )

    def _setting(self, row: int) -> Iterator[Row]:
        setting = self.actor.rig.settings[row]
        values = float(self.first.state.settings[row]), float(self.second.state.settings[row])
        change = abs(values[1] - values[0])
        if change > VALUE:
            ends = min(setting.minimum, *values), max(setting.maximum, *values)
            size = change / max(setting.maximum - setting.minimum, 1e-9)
            made = self._row(DifferingPart.SETTING, row, setting.words, values, "", ends, size)
            yield replace(made, options=setting.options)

    def _row(
        self,
        kind: DifferingPart,
        row: int,
        word: str,
        values: tuple[float, float],
        unit: str,
        ends: tuple[float, float],
        size: float,
    ) -> Row:
        rig = self.actor.rig
        holder = rig.settings[row].control if kind is DifferingPart.SETTING else row
        region = rig.controls[holder].region
        return Row((kind, row), _name(rig, holder), word, *values, unit, *ends, size, region)


def _name(rig: Rig, row: int) -> str:
    control = rig.controls[row]
    letter = {"left": " L", "right": " R"}.get(control.side.value, "")
    return f"{rig.word(row)}{letter}"


def _ends(values: tuple[float, float], least: float) -> tuple[float, float]:
    return min(-least, *values), max(least, *values)


def _together(first: ChannelFilter, second: ChannelFilter) -> ChannelFilter:
    channels = {
        row: kinds & second.channels[row]
        for row, kinds in first.channels.items()
        if row in second.channels and kinds & second.channels[row]
    }
    return ChannelFilter(channels, first.settings & second.settings)


def _with(state: State, other: State, keys: Collection[tuple[DifferingPart, int]]) -> State:
    """The state with some channels of another."""
    arrays = {
        DifferingPart.TURN: (state.turn.copy(), other.turn),
        DifferingPart.MOVE: (state.move.copy(), other.move),
        DifferingPart.SCALE: (state.scale.copy(), other.scale),
        DifferingPart.SETTING: (state.settings.copy(), other.settings),
    }
    euler = state.euler.copy()
    for kind, row in keys:
        mine, theirs = arrays[kind]
        mine[row] = theirs[row]
        if kind is DifferingPart.TURN:
            euler[row] = other.euler[row]
    return state.with_(
        turn=arrays[DifferingPart.TURN][0],
        move=arrays[DifferingPart.MOVE][0],
        scale=arrays[DifferingPart.SCALE][0],
        settings=arrays[DifferingPart.SETTING][0],
        euler=euler,
    )
