"""What is said of a card that is fitted to another character."""

from __future__ import annotations

from collections.abc import Mapping

from fox_hand.base.language import tr, tr_n
from fox_hand.core.retarget.retarget import Fitted, Landing


def verdict(lands: int, ask: int, out: int) -> str:
    """How many controls land, wait for an answer, and stay out."""
    said = [
        tr("{lands} land", lands=lands),
        tr("{ask} to confirm", ask=ask) if ask else "",
        tr("{out} stay out", out=out),
    ]
    return ", ".join(part for part in said if part)


def card_words(character: str, count: int) -> str:
    """Whose card it is, and how large."""
    whose = character or tr("somebody")
    return tr_n(
        "{character}'s card, {number} control",
        "{character}'s card, {number} controls",
        count,
        character=whose,
    )


def apart_words(fitted: Fitted) -> str:
    """How far the two figures are from each other."""
    stance = max(fitted.stance.angles.values(), default=0.0)
    size = tr("{legs:.2f} times the limbs", legs=fitted.legs)
    return tr("stance {stance:.0f}° apart, {size}", stance=stance, size=size)


def how_words(fitted: Fitted, counts: Mapping[Landing, int]) -> tuple[str, str, str, str, str]:
    """Of the stance, turns by rest, the limbs, limits and locks: how much each did."""
    most = max(fitted.stance.angles.values(), default=0)
    return (
        tr("arms and legs by up to {values:.0f}°", values=most),
        tr_n("1 control", "{number} controls", counts[Landing.CORRECTED]),
        tr("arms {arms:.2f}, legs {legs:.2f}", arms=fitted.arms, legs=fitted.legs),
        tr("{counts} stopped", counts=counts[Landing.LIMIT]),
        tr("{counts} locked", counts=counts[Landing.LOCKED]),
    )


def still_asked(ask: int) -> str:
    """A warning about names that are only guessed."""
    return tr_n(
        "One name is only a proposal. It stays out until you say yes.",
        "{number} names are only proposals. They stay out until you say yes.",
        ask,
    )
