"""Taking a card from the figure: what goes in, and what might be forgotten."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import replace
from functools import cached_property

import numpy as np
from psygnal import Signal

from fox_hand.base.language import tr
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelId, row_of
from fox_hand.core.model.controls import (
    BODY_REGIONS,
    FACE_REGIONS,
    Channel,
    ControlKind,
    Region,
    Side,
)
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, Pose, take
from fox_hand.core.pose.sides import Sides, mirrored
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Standing
from fox_hand.library.format.card import Card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.schema import SideName, StyleName
from fox_hand.library.store.sheets import Habit
from fox_hand.session.animating.clips import Span, captured_clip, mirrored_clip, moving
from fox_hand.session.capturing.away import Away, away_from, farthest_first
from fox_hand.session.capturing.capture_groups import CaptureGroup, groups_of, without_own_turn
from fox_hand.session.capturing.card_framing import around, taken
from fox_hand.session.capturing.carrying import carrying
from fox_hand.session.capturing.chosen_channels import ChosenChannels
from fox_hand.session.figures.depends import offered
from fox_hand.session.figures.figure import Figure


class CaptureDraft:
    """A card before it is saved.

    Args:
        actor: whose pose.
        selected: selected rows; with none, everything that is away from rest is proposed.
        state: another pose than the one the figure stands in, such as that of another frame.
        chosen: what goes in; None for what is proposed.
    """

    changed = Signal()  # words or what goes in
    stands = Signal()  # the figure stands otherwise, or another frame is in sight

    def __init__(
        self,
        actor: Figure,
        selected: Iterable[int],
        state: State | None = None,
        chosen: ChosenChannels | None = None,
    ) -> None:
        self.actor, self.source = actor, state
        self.selected = frozenset(selected)
        self.name = ""
        self.sheet = ""
        self.tags: tuple[str, ...] = ()
        self.note = ""
        self.author = ""
        self.licence = ""
        self.frame: Camera | None = None
        self.style: StyleName = "shaded"
        self.ground = True
        self.own_picture: tuple[bytes, bytes] | None = None  # PNG and WebP of a file, no drawing
        self.both = False
        self.since = "rest"  # or the name of one of the figure's landmarks
        self.over: Entry | None = None  # the card it will replace
        self.taken_from, self.taken_frame = "", 0.0  # the shot or motion, and the frame in it
        self.span: Span | None = None  # first and last frame of a clip
        self.moving: dict[ChannelId, float] = {}  # what moves in it, and how far
        self._through: State | None = None  # all frames of it
        self._away: tuple[Rig, State, Away] | None = None  # the pose it was asked for last
        self.retaken: tuple[Entry, Card] | None = None  # a card of which only the picture is taken
        self.exact = False  # what goes in was said; no habit of a sheet changes it
        self.chosen = chosen if chosen is not None else self._proposed()

    @cached_property
    def groups(self) -> tuple[CaptureGroup, ...]:
        """All controls, in groups."""
        return groups_of(self.actor.rig, self.state)

    def _proposed(self) -> ChosenChannels:
        """What is selected, else what is away from rest, else everything."""
        rig, away = self.actor.rig, self.away()
        moved = {row for row in (row_of(rig, x) for x in away) if row is not None}
        wanted = set(self.selected) or moved or set(range(len(rig.controls)))
        wanted = {row for row in wanted if rig.views.shown(self.state, row)}
        rows = without_own_turn(rig, wanted)
        chosen = ChosenChannels(rig, rows)
        names = {rig.controls[r].name for r in rows}
        for kind in (Channel.MOVE, Channel.SCALE):
            if any(x.name in names for x in away if x.kind.value == kind.value):
                chosen.kinds.add(kind)
        self._leave_still(chosen)
        own = {s for s in chosen.settings if rig.views.is_own(s)}
        if set(chosen.filter.channels) or chosen.settings - own:
            chosen.settings -= own  # a pose is drawn in its view; only a card of views turns to it
        return chosen

    def _leave_still(self, chosen: ChosenChannels) -> None:
        """Where joints moved or grew, the places and sizes of the others are not meant."""
        rig, away = self.actor.rig, self.away()
        still = [
            x
            for x in chosen.channel_ids
            if x.kind.value in (Channel.MOVE, Channel.SCALE)
            and x not in away
            and rig.controls[rig.control_row[x.name]].kind is ControlKind.JOINT
        ]
        chosen.set_channels(still, False)

    def take_span(self, span: Span, only: Iterable[int] = ()) -> bool:
        """Make it a clip of a span of frames: what moves there goes in, of some controls if any
        of them does; False if nothing moves.

        Args:
            span: first and last frame.
            only: rows that are selected.
        """
        rig, take = self.actor.rig, self.actor.take
        found, chosen = moving(rig, take, span), set(only)
        wanted = [channel_id for channel_id in found if row_of(rig, channel_id) in chosen] or list(
            found
        )
        if not wanted:
            return False
        self.span, self.moving = span, found
        self._through = take.many(np.arange(span[0], span[1] + 0.5))
        self.chosen.only(wanted)
        return True

    # -- what goes in ---------------------------------------------------------------------

    def take_exactly(self, channel_ids: Iterable[ChannelId]) -> None:
        """These go in and nothing else."""
        self.exact = True
        self.chosen.only(channel_ids)

    @property
    def rows(self) -> set[int]:
        """Controls of which anything goes in."""
        return self.chosen.rows

    @property
    def kinds(self) -> set[Channel]:
        """Kinds of channel that go in of all chosen controls."""
        return self.chosen.kinds

    @property
    def settings(self) -> set[int]:
        """Settings that go in."""
        return self.chosen.settings

    @property
    def channel_ids(self) -> list[ChannelId]:
        """Channels and settings that go in."""
        return self.chosen.channel_ids

    @property
    def choice(self) -> ChannelFilter:
        """What goes in now, of the side that was posed."""
        return self.chosen.filter

    @property
    def clip(self) -> Clip | None:
        """What moves, of what goes in; None where no span of frames is taken."""
        if self.span is None:
            return None
        actor, chosen = self.actor, set(self.channel_ids)
        channel_ids = [
            channel_id
            for channel_id in self.channel_ids
            if channel_id in self.moving or channel_id in actor.keys.lines
        ]
        rate = actor.timing.rate
        clip = captured_clip(actor.rig, actor.take, channel_ids or sorted(chosen), self.span, rate)
        if self.both:
            return mirrored_clip(actor.rig, clip, Sides.BOTH)
        return clip

    @property
    def state(self) -> State:
        """The pose that is captured."""
        return self.source if self.source is not None else self.actor.state

    @property
    def standing(self) -> Standing:
        """The figure as its picture shows it."""
        state, _ = self._taken()
        if state is self.actor.state:
            return self.actor.standing
        return self.actor.standing_in(state)

    def _taken(self) -> tuple[State, ChannelFilter]:
        return self._sided(self.state)

    def _begins(self) -> tuple[State, ChannelFilter]:
        return self._sided(self.state if self.span is None else self.actor.take.at(self.span[0]))

    def _sided(self, state: State) -> tuple[State, ChannelFilter]:
        if not self.both:
            return state, self.choice
        return mirrored(self.actor.rig, state, self.choice, both=True)

    @property
    def pose(self) -> Pose:
        """What the card will hold; of a clip how it begins."""
        return take(self.actor.rig, *self._begins())

    def motion(self) -> Callable[[float], Standing] | None:
        """How the figure stands at a frame of the clip, wherever that is asked for."""
        if self.span is None:
            return None
        actor, take_, first = self.actor, self.actor.take, self.span[0]
        return lambda frame: actor.standing_in(take_.at(first + frame))

    def store_over(self, entry: Entry) -> None:
        """Replace a card, keeping its words; the one before becomes an earlier version."""
        self.over = entry
        self.name, self.sheet, self.tags = entry.name, entry.sheet, entry.tags
        self.note, self.licence = entry.note, entry.licence or self.licence

    def make_variant(self, entry: Entry) -> None:
        """A card of its own beside another, with its words to begin with."""
        self.over = None
        self.name, self.sheet, self.tags = (
            tr("{name}, variant", name=entry.name),
            entry.sheet,
            entry.tags,
        )
        self.note = entry.note

    def take_habit(self, habit: Habit) -> None:
        """What goes in, and how the picture is drawn, as a sheet has it by habit."""
        rig, chosen = self.actor.rig, self.chosen
        self._keep_to(habit.regions)
        if habit.kinds:
            for kind in Channel:
                chosen.set_kind(kind, kind.value in habit.kinds)
            self._leave_still(chosen)
        tops = {r for g in self.groups if g.own_turn for r in g.rows}
        if not habit.own_turn and self.rows - tops:
            chosen.set_rows(tops & self.rows, False)
        for row in {s for r in self.rows for s in rig.settings_of[r]}:
            setting = rig.settings[row]
            out = {setting.name, setting.partner} & set(habit.left_out)
            chosen.set_setting(row, habit.settings and not out)
        self.style, self.ground = habit.style, habit.ground

    def _keep_to(self, regions: Collection[str]) -> None:
        """Leave out what belongs elsewhere; where nothing would be left, all of the regions."""
        controls = self.actor.rig.controls
        wanted = {i for i, c in enumerate(controls) if c.region.value in regions and not c.helper}
        if wanted:
            self.chosen.set_rows(self.rows - wanted, False)
            if not self.rows:
                self.chosen.set_rows(wanted, True)

    @property
    def source_words(self) -> str:
        """Where the pose comes from, for the panel's title."""
        if self.taken_from:
            return tr(
                "from {taken_from}, frame {taken_frame:g}",
                taken_from=self.taken_from,
                taken_frame=self.taken_frame,
            )
        return tr("from the figure as it stands")

    def set_rows(self, rows: Iterable[int], included: bool) -> None:
        """Take controls in, with the settings they hold, or leave them out."""
        self.chosen.set_rows(rows, included)
        self.changed.emit()

    def set_kind(self, kind: Channel, included: bool) -> None:
        """Take one kind of channel in, or leave it out."""
        self.chosen.set_kind(kind, included)
        self.changed.emit()

    def set_setting(self, row: int, included: bool) -> None:
        """Take one setting in, or leave it out."""
        self.chosen.set_setting(row, included)
        self.changed.emit()

    def set_channels(self, channel_ids: Iterable[ChannelId], included: bool) -> None:
        """Take single channels and settings in, or leave them out."""
        self.chosen.set_channels(channel_ids, included)
        self.changed.emit()

    def set_both(self, both: bool) -> None:
        """Whether the other side goes in too, mirrored."""
        self.both = both
        self.changed.emit()

    def set_since(self, since: str) -> None:
        """Measure what moved against rest, or against how a card or key left the figure."""
        self.since = since
        self.changed.emit()

    def set_look(self, style: StyleName | None = None, ground: bool | None = None) -> None:
        """How the picture is shaded, and whether the ground is in it."""
        self.style = style or self.style
        self.ground = self.ground if ground is None else ground
        self.changed.emit()

    def set_own_picture(self, pictures: tuple[bytes, bytes] | None) -> None:
        """A picture from elsewhere at 320 and 640 px, or one that is drawn."""
        self.own_picture = pictures
        self.changed.emit()

    # -- what might be forgotten ----------------------------------------------------------

    def away(self) -> Away:
        """Channels and settings away from rest, of a clip those that move, and how far."""
        if self.span is not None:
            return self.moving
        rig, state = self.actor.rig, self.state
        if self._away is None or self._away[0] is not rig or self._away[1] is not state:
            self._away = rig, state, self._in_view(away_from(rig, state, rig.rest))
        return self._away[2]

    def _in_view(self, found: dict[ChannelId, float]) -> dict[ChannelId, float]:
        """Without what belongs to views of a puppet that are not seen."""
        rig = self.actor.rig
        rows = {channel_id: row_of(rig, channel_id) for channel_id in found}
        shown = {x for x, r in rows.items() if r is not None and rig.views.shown(self.state, r)}
        return {x: far for x, far in found.items() if x in shown}

    def differs(self) -> np.ndarray:
        """For each control whether anything of it is away from rest, of a clip whether it moves,
        ``(C,)`` bool."""
        rig = self.actor.rig
        found = np.zeros(len(rig.controls), dtype=bool)
        found[[row for row in (row_of(rig, x) for x in self.away()) if row is not None]] = True
        return found

    def moved(self) -> Away:
        """Channels and settings that moved since what they are measured against, and how far."""
        since = self.actor.landmark(self.since)
        if self.span is not None or since is None:
            found = self.away()
        else:
            found = self._in_view(away_from(self.actor.rig, self.state, since))
        settings, views = self.actor.rig.setting_row, self.actor.rig.views
        return {
            x: far
            for x, far in found.items()
            if not (x.is_setting and views.is_own(settings[x.name]))
        }

    def moved_but_left_out(self) -> list[ChannelId]:
        """Channels and settings that moved and are not in the card; the farthest first."""
        moved, inside = self.moved(), set(self.channel_ids)
        return farthest_first(self.actor.rig, moved, [x for x in moved if x not in inside])

    def untouched_but_in(self) -> list[ChannelId]:
        """Channels and settings in the card that are at rest; only of interest where anything of
        the figure is not."""
        away = self.away()
        return [x for x in self.channel_ids if x not in away] if away else []

    def depends_on(self) -> list[int]:
        """Settings that the shape depends on and that would not go in."""
        states = self.state if self._through is None else self._through
        return offered(self.actor.rig, states, self.choice)

    # -- the card -------------------------------------------------------------------------

    @property
    def region(self) -> Region:
        """Where most of its controls are; a card of several body regions counts as body."""
        counts: dict[Region, int] = {}
        for row in self.rows:
            region = self.actor.rig.controls[row].region
            counts[region] = counts.get(region, 0) + 1
        if not counts:
            return Region.TORSO
        if len(counts) > 1 and set(counts) <= FACE_REGIONS:
            return Region.HEAD
        body = BODY_REGIONS & set(counts)
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
        if self.both:
            return "both"
        return "left" if Side.LEFT in sides else "right"

    def why_not(self) -> str | None:
        """Why it cannot be saved yet, as a sentence; None if it can."""
        if self.retaken is not None:
            return None
        if not self.name.strip():
            return tr("Give the card a name.")
        if not self.settings and not self.choice.rows:
            return tr("Nothing goes in yet: tick at least one row.")
        return None

    def card(self) -> Card:
        """The card as it would be saved now."""
        rig = self.actor.rig
        if self.retaken is not None:
            own = self.own_picture is not None
            card = replace(self.retaken[1], style=self.style, ground=self.ground, own_picture=own)
            return self._framed(card)
        state, choice = self._begins()
        card = Card(
            name=self.name.strip(),
            pose=take(rig, state, choice),
            region=self.region,
            side=self.side,
            tags=self.tags,
            note=self.note.strip(),
            author=self.author.strip(),
            licence=self.licence.strip(),
            character=rig.name,
            fingerprint=rig.fingerprint,
            around=around(rig, state, choice),
            style=self.style,
            ground=self.ground,
            source=self.taken_from,
            source_frame=self.taken_frame if self.taken_from else None,
            kind="clip" if self.span is not None else "pose",
            clip=self.clip,
            own_picture=self.own_picture is not None,
        )
        return self._framed(carrying(card, rig))

    def _framed(self, card: Card) -> Card:
        if self.frame is None:
            return card
        standing = self.actor.standing_in(self._begins()[0])
        return taken(card, self.actor, standing, self.frame)
