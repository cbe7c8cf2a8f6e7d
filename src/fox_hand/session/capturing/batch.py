"""Many cards at once: marked frames, named by a pattern."""

from __future__ import annotations

import re

from fox_hand.base.errors import FoxHandError
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.capturing.marked import Marked

FIELDS = ("sheet", "n", "frame", "character", "source")
FIELD = re.compile(r"\{(\w+)(?::(0?\d{1,2}))?\}")


def named_by(pattern: str, values: dict[str, str | int]) -> str:
    """A name made by a pattern such as ``{sheet} {n:02}``.

    Args:
        pattern: text with ``{sheet}``, ``{n}``, ``{frame}``, ``{character}`` or ``{source}``;
            numbers may be followed by ``:02`` for leading zeros.
        values: what they stand for.

    Raises:
        FoxHandError: ``pattern.unknown`` for another word in braces.
    """

    def put(match: re.Match[str]) -> str:
        word, width = match[1], match[2]
        if word not in values:
            raise FoxHandError(
                "pattern.unknown",
                f"The pattern has {{{word}}}, which stands for nothing.",
                "Nothing was taken.",
                f"It knows {', '.join('{' + f + '}' for f in FIELDS)}.",
            )
        value = values[word]
        return f"{value:{width}}" if width and isinstance(value, int) else str(value)

    name = FIELD.sub(put, pattern).strip()
    if "{" in name or "}" in name or not name:
        raise FoxHandError(
            "pattern.unknown",
            "The pattern cannot be read.",
            "Nothing was taken.",
            "Write it like {sheet} {n:02}.",
        )
    return name


def marked_drafts(draft: CaptureDraft, sequence: Marked, pattern: str) -> list[CaptureDraft]:
    """A draft for every marked frame: what goes in, words, frame and style are those of one
    that a person has set up.

    Raises:
        FoxHandError: as :func:`named_by`.
    """
    found = []
    for number, frame in enumerate(sorted(sequence.marks), 1):
        one = CaptureDraft(draft.actor, draft.rows, sequence.at(frame))
        one.rows, one.kinds, one.settings = set(draft.rows), set(draft.kinds), set(draft.settings)
        one.sheet, one.tags, one.note = draft.sheet, draft.tags, draft.note
        one.author, one.licence = draft.author, draft.licence
        one.style, one.ground, one.both = draft.style, draft.ground, draft.both
        one.frame = draft.frame
        one.taken_from, one.taken_frame = sequence.name, float(sequence.number(frame))
        one.name = named_by(
            pattern,
            {
                "sheet": draft.sheet.rpartition("/")[2] or "card",
                "n": number,
                "frame": sequence.number(frame),
                "character": draft.actor.rig.name,
                "source": sequence.name,
            },
        )
        found.append(one)
    return found
