"""The pictures of cards that are there, taken again."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.animation.curves import Keys
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.state import State
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Standing
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.schema import StyleName
from fox_hand.session.animating.clips import clip_on
from fox_hand.session.applying.mix import fit_of
from fox_hand.session.capturing.capture_pictures import CapturePictures, motion_frames, playing
from fox_hand.session.capturing.card_framing import shot_of, taken, worn
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.libraries.card_commands import CardCommands
from fox_hand.session.libraries.storing import Pictures


@dataclass(frozen=True)
class Reshot:
    """A card with its next picture.

    Args:
        card: with the frame it is taken with.
        standing, camera: what is drawn, and from where.
        pictures: draws it at 320 and 640 px, and of a clip the moving one.
    """

    card: Card
    standing: Standing
    camera: Camera
    pictures: Pictures


def reshot(
    card: Card, actor: Figure, drawing: CapturePictures, style: StyleName | None = None
) -> Reshot:
    """The next picture of a card on a character.

    Args:
        card: whose picture.
        actor: who wears it; what stands around it is as the card says, not as the figure stands.
        drawing: draws.
        style: another way to draw than it has.

    Raises:
        FoxHandError: ``reshoot.own_picture``, ``reshoot.nothing_lands``, ``clip.nothing_lands``.
    """
    if card.own_picture:
        raise FoxHandError(
            "reshoot.own_picture",
            tr("{name} has a picture of its own.", name=card.name),
            tr("It stays."),
            tr("Take its picture again by itself to have it drawn."),
        )
    if not fit_of(card, actor.rig).lands:
        raise FoxHandError(
            "reshoot.nothing_lands",
            tr("Nothing of {name} lands on {name_2}.", name=card.name, name_2=actor.rig.name),
            tr("Its picture stays."),
            tr("Let the character act that the card was made for."),
        )
    shot = shot_of(actor, card)
    again = replace(taken(card, actor, shot.standing, shot.camera), style=style or card.style)
    standing, motion = shot.standing, None
    if card.clip is not None:
        clip, base = clip_on(card, actor), worn(actor.rig, card)
        motion = playing(actor, clip, base, shot.way)
        take = Animation(actor.rig, base, Keys(clip.lines))
        standing = motion(_farthest(take.at, motion_frames(clip)[0]))
    pictures = drawing.drawn(standing, shot.camera, again, motion)
    return Reshot(again, standing, shot.camera, pictures)


def _farthest(at: Callable[[float], State], frames: list[float]) -> float:
    """The frame of a clip that is farthest from how it begins: that is what it is about."""
    first = at(frames[0])

    def way(frame: float) -> float:
        state = at(frame)
        turned = float(angle_between(first.turn, state.turn).sum())
        moved = float(np.abs(state.move - first.move).sum())
        return turned + moved + float(np.abs(state.settings - first.settings).sum())

    return max(frames, key=way)


@dataclass(frozen=True)
class PictureChange:
    """A card's picture now, and as it would be.

    Args:
        name: the card's.
        before, after: picture files; None where there is none.
        problem: why there would be no other picture; empty where there would.
    """

    name: str
    before: bytes | None
    after: bytes | None
    problem: str = ""


class Reshoots:
    """Takes the pictures of many cards again, on the acting character.

    Args:
        cast: who acts.
        card_commands: where pictures are written; what was there becomes an earlier version.
        drawing: draws; asked when it is needed.
    """

    def __init__(
        self, cast: Cast, card_commands: CardCommands, drawing: Callable[[], CapturePictures]
    ) -> None:
        self._cast, self._card_commands, self._drawing = cast, card_commands, drawing

    def preview(self, actor: Figure, entry: Entry) -> PictureChange:
        """One card before and after; it takes its time and is for jobs."""
        before = None
        try:
            card, before = read_card(entry.path)
            after = reshot(card, actor, self._drawing()).pictures()[0]
        except FoxHandError as error:
            return PictureChange(entry.name, before, None, error.happened)
        return PictureChange(
            entry.name, before, after, "" if after else tr("It could not be drawn.")
        )

    def take(self, entries: Sequence[Entry]) -> None:
        """Take them; each that does not work is told of, one undo step for the others."""
        actor = self._cast.acting
        if actor is not None:
            self._card_commands.take_pictures(entries, partial(self._drawn, actor))

    def _drawn(self, actor: Figure, entry: Entry) -> tuple[Card, tuple[bytes | None, ...]]:
        again = reshot(read_card(entry.path)[0], actor, self._drawing())
        pictures = again.pictures()
        if pictures[0] is None:
            raise not_drawn(entry.name)
        return again.card, pictures


def not_drawn(name: str) -> FoxHandError:
    """What to say of a card whose picture could not be drawn."""
    return FoxHandError(
        "reshoot.not_drawn",
        tr("The picture of {name} could not be drawn.", name=name),
        tr("Its picture stays."),
    )
