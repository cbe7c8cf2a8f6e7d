"""Cards of the demo's library: taken from a posed figure, pictured and stored."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from cast.clips import Made, first_pose
from cast.member import Member
from cast.numbers_file import Words
from cast.pictures import Posed, framed
from fox_hand.core.animation.clip import Player
from fox_hand.core.animation.curves import row_of
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Pixels, Quality, Standing, View
from fox_hand.core.view.usual_views import seen_from
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import PICTURE, card_bytes
from fox_hand.library.format.thumb import moving, png, webp
from fox_hand.library.store.store import Library
from fox_hand.render.engine import Engine
from fox_hand.session.capturing.card_framing import around, taken
from fox_hand.session.capturing.carrying import carrying
from fox_hand.session.figures.figure import Figure

MOVING, MOST = 160, 72  # pixels and frames of a moving picture


def moments(first: datetime) -> Iterator[str]:
    """One minute after the other, as cards are taken."""
    while True:
        first += timedelta(minutes=1)
        yield first.strftime("%Y-%m-%dT%H:%M:%SZ")


def morning(day: int) -> Iterator[str]:
    """The minutes of a day of the demo's November, from nine on."""
    return moments(datetime(2026, 11, day, 9, 0, tzinfo=UTC))


@dataclass(frozen=True)
class Shelf:
    """Where a card goes: its sheet, what is written on it, and when it was taken."""

    sheet: str
    words: Words
    when: str


class Maker:
    """Stores cards of somebody into a library."""

    def __init__(self, member: Member, library: Library, engine: Engine) -> None:
        self._member, self._rig = member, member.rig
        self._library, self._engine = library, engine
        self._actor = Figure(self._rig, Path())

    def card(self, posed: Posed, shelf: Shelf) -> Card:
        """Take, picture and write one card."""
        rig = self._rig
        state, choice = self._member.state(posed.state), self._member.choice(posed.choice)
        card = replace(
            self._written(shelf),
            pose=take(rig, state, choice),
            region=posed.region,
            side=posed.side,
            around=around(rig, state, choice),
            kind="pose" if posed.drawing is None else "drawing",
            drawing=posed.drawing,
        )
        card = taken(carrying(card, rig), self._actor, self._actor.standing_in(state), posed.camera)
        small, large = (self._drawn(state, posed.camera, n) for n in (PICTURE, 2 * PICTURE))
        self._store(shelf, card_bytes(card, png(small), webp(large)))
        return card

    def clip(self, made: Made, shelf: Shelf) -> None:
        """Take, picture and write a clip."""
        rig = self._rig
        player = Player(rig, made.clip)
        states = {
            f: blend(rig.rest, player.at(f), 1.0, rig.setting_rules) for f in (0.0, made.look)
        }
        view = Camera(yaw=float(np.radians(made.yaw)), pitch=0.05)
        if made.flat:
            view = seen_from(rig, 0.0, 0.0)
        camera = framed(rig, states[made.look], made.nodes, view, 1.14)
        rows = {row_of(rig, channel_id) for channel_id in made.clip.lines} - {None}
        whole = take(rig, states[0.0], ChannelFilter.of(rig, [r for r in rows if r is not None]))
        card = replace(
            self._written(shelf),
            pose=first_pose(made.clip, rig, whole),
            region=made.region,
            side=made.side,
            kind="clip",
            clip=made.clip,
        )
        card = carrying(card, rig)
        card = taken(card, self._actor, self._actor.standing_in(states[0.0]), camera)
        small, large = (self._drawn(states[made.look], camera, n) for n in (PICTURE, 2 * PICTURE))
        motion = self._motion(rig, made, player, camera)
        self._store(shelf, card_bytes(card, png(small), webp(large), motion))

    def _written(self, shelf: Shelf) -> Card:
        words, rig = shelf.words, self._rig
        name = f"{rig.name}/{shelf.sheet}/{words.name}"
        return Card(
            name=words.name,
            pose=take(rig, rig.rest, ChannelFilter({})),
            tags=words.tags,
            note=words.note,
            author=words.author,
            licence=words.licence,
            character=rig.name,
            fingerprint=rig.fingerprint,
            identity=hashlib.sha256(name.encode()).hexdigest()[:32],
            created=shelf.when,
            changed=shelf.when,
            approved_by=words.approved,
            approved_at=shelf.when if words.approved else "",
        )

    def _motion(self, rig: Rig, made: Made, player: Player, camera: Camera) -> bytes:
        frames = []
        for frame in range(round(made.clip.length)):
            state = blend(rig.rest, player.at(float(frame)), 1.0, rig.setting_rules)
            frames.append(self._drawn(state, camera, MOVING))
        step = max(-(-len(frames) // MOST), 1)
        return moving(frames[::step], made.clip.rate / step)

    def _store(self, shelf: Shelf, data: bytes) -> None:
        folder = self._library.folder / shelf.sheet
        folder.mkdir(parents=True, exist_ok=True)
        (folder / f"{shelf.words.name}.foxcard").write_bytes(data)

    def _drawn(self, state: State, camera: Camera, pixels: int) -> Pixels:
        standing = Standing(self._rig, self._rig.evaluate(state))
        view = View((standing,), camera, pixels, pixels, Quality.CARD)
        return self._engine.draw(view).pixels
