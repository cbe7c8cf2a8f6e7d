"""What comes of a card on another rig than its own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fox_hand.api.card import Card
    from fox_hand.api.stance import Stance


@dataclass(frozen=True)
class FitLine:
    """One control of the card.

    Args:
        source: its name there.
        target: its name on the rig; None where it has none.
        landing: ``lands``, ``corrected``, ``at a limit``, ``locked``, ``not there`` or ``to
            confirm``: perhaps the same, but nobody has said so.
        found: how the name was matched, such as ``same role``.
        detail: in words, such as what stopped it.
    """

    source: str
    target: str | None
    landing: str
    found: str
    detail: str


@dataclass(frozen=True)
class Fit:
    """A card on a rig.

    Args:
        lines: control by control.
        lands: how many of them go on.
        stance: how the rig stands with the card on it.
        card: the card as one of this rig, with its names and values.
    """

    lines: tuple[FitLine, ...]
    lands: int
    stance: Stance
    card: Card

    @property
    def missing(self) -> tuple[str, ...]:
        """Names that do not go on."""
        return tuple(line.source for line in self.lines if line.target is None)


def fit_report(stance: Stance, card: Card, names: Mapping[str, str | None]) -> Fit:
    """How a card goes on a rig that stands somehow; see :meth:`Stance.fit`."""
    from fox_hand.api.card import Card as ApiCard
    from fox_hand.api.card import place_of
    from fox_hand.api.stance import Stance as ApiStance
    from fox_hand.api.stance import figure_of
    from fox_hand.session.app.headless import saved_names
    from fox_hand.session.applying.fit_draft import FitDraft

    figure = figure_of(stance)
    known = saved_names(place_of(card), card.core, stance.rig.core)
    known = replace(known, names={**known.names, **names})
    draft = FitDraft(card.core, figure, known)
    lines = tuple(
        FitLine(r.source, r.target, r.landing.value, r.found.value, r.detail) for r in draft.rows
    )
    worn = ApiStance(stance.rig, draft.outcome.worn)
    return Fit(lines, draft.lands, worn, ApiCard(draft.as_card()))
