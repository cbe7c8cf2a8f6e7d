"""What is told of two poses beside each other: what they hold, their notes, kinds and tags."""

from __future__ import annotations

from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.controls import Channel
from fox_hand.session.applying.comparing import Compared


def facts_of(first: Compared, second: Compared) -> list[tuple[str, str, str]]:
    """Rows of the table about the two."""

    def note(one: Compared) -> str:
        return (one.ready.card.note if one.ready is not None else "") or tr("none")

    def kinds(one: Compared) -> str:
        found = {k for held in one.choice.channels.values() for k in held}
        words = {
            Channel.TURN: tr("turns"),
            Channel.MOVE: tr("moves"),
            Channel.SCALE: tr("scale"),
        }
        said = [word for kind, word in words.items() if kind in found]
        return ", ".join([*said, *([tr("settings")] if one.choice.settings else [])])

    def tags(one: Compared) -> str:
        return ", ".join(one.ready.card.tags if one.ready is not None else ()) or tr("none")

    def held(one: Compared) -> str:
        return tr_n("1 control", "{number} controls", len(one.choice.channels))

    rows = ((tr("Holds"), held), (tr("Note"), note), (tr("Kinds"), kinds), (tr("Tags"), tags))
    return [(tr("About"), "A", "B"), *((word, of(first), of(second)) for word, of in rows)]
