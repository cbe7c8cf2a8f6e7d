"""Pictures of many cards, taken again."""

from __future__ import annotations

from dataclasses import replace
from typing import get_args

from fox_hand.base.errors import FoxHandError
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Quality, Standing, Style, View
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import PICTURE, read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.thumb import png, webp
from fox_hand.library.store import moves
from fox_hand.library.store.store import Library
from fox_hand.render.engine import Engine
from fox_hand.session.applying.mix import fit_of
from fox_hand.session.figures.pose_conversion import state_of


class Reshooter:
    """Draws cards on one character.

    Args:
        rig: who wears them.
        style: how to draw; empty for as each card was drawn.

    Raises:
        FoxHandError: ``style.unknown``, or ``render.no_context`` where OpenGL is missing.
    """

    def __init__(self, rig: Rig, style: str = "") -> None:
        self._style: Style | None = next((s for s in get_args(Style) if s == style), None)
        if style and self._style is None:
            raise FoxHandError(
                "style.unknown",
                f"{style} is no way to draw.",
                "Nothing was changed.",
                f"There are {', '.join(get_args(Style))}.",
            )
        self._rig, self._engine = rig, Engine()

    def take(self, library: Library, entry: Entry) -> FoxHandError | None:
        """Take one picture; what went wrong, or None."""
        try:
            card, _ = read_card(entry.path)
            if not fit_of(card, self._rig).lands:
                raise FoxHandError(
                    "reshoot.nothing_lands",
                    f"Nothing of {entry.name} lands on {self._rig.name}.",
                    "Its picture stays.",
                )
            moves.repicture(library, entry, *self.drawn(card))
        except FoxHandError as error:
            return error
        return None

    def drawn(self, card: Card) -> tuple[Card, bytes, bytes]:
        """The card with its frame, and its pictures at 320 and 640 px."""
        state = state_of(self._rig, card.pose)
        standing = Standing(self._rig, self._rig.evaluate(state))
        camera = card.frame or self._framing(card, standing)
        style = self._style or card.style
        small, large = (
            self._engine.draw(
                View((standing,), camera, n, n, Quality.CARD, card.ground, style=style)
            ).pixels
            for n in (PICTURE, 2 * PICTURE)
        )
        shot = replace(card, frame=camera, style=style)
        return shot, png(small), webp(large)

    def _framing(self, card: Card, standing: Standing) -> Camera:
        rows = [self._rig.control_row[n] for n in card.pose.controls if n in self._rig.control_row]
        nodes = frozenset(self._rig.controls[r].node for r in rows)
        points = self._rig.flesh(standing.at, nodes or None)
        return Camera(yaw=0.35, pitch=0.1).framing(points, 1.0)
