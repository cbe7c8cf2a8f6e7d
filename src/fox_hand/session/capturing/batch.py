"""Many cards at once: marked frames, named by a pattern."""

from __future__ import annotations

import re
from enum import StrEnum

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.animation.curves import ChannelId, row_of
from fox_hand.session.capturing.away import Away, away_from
from fox_hand.session.capturing.capture_groups import without_own_turn
from fox_hand.session.capturing.chosen_channels import ChosenChannels
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.capturing.marked import Marked

FIELDS = ("sheet", "n", "frame", "character", "source", "slot")
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
                tr("The pattern has {{{word}}}, which stands for nothing.", word=word),
                tr("Nothing was taken."),
                tr("It knows {names}.", names=", ".join("{" + f + "}" for f in FIELDS)),
            )
        value = values[word]
        return f"{value:{width}}" if width and isinstance(value, int) else str(value)

    name = FIELD.sub(put, pattern).strip()
    if "{" in name or "}" in name or not name:
        raise FoxHandError(
            "pattern.unknown",
            tr("The pattern cannot be read."),
            tr("Nothing was taken."),
            tr("Write it like {sheet} {n:02}."),
        )
    return name


class HeldBy(StrEnum):
    """What goes into the cards of many frames."""

    EACH = "each"  # of every frame what is away from rest there
    ALL = "all"  # of all frames alike what is away from rest in any
    TICKED = "ticked"  # what is ticked in the panel


class MarkedFrames:
    """The marked frames of one figure, looked through once; it takes its time for many.

    Args:
        draft: words, look and frame of the cards, and the controls that are selected, to which
            what goes in is confined.
        sequence: where the marks are.
    """

    def __init__(self, draft: CaptureDraft, sequence: Marked) -> None:
        self._draft, self._sequence = draft, sequence
        rig = draft.actor.rig
        self.frames = sorted(sequence.marks)
        self.states = [sequence.at(frame) for frame in self.frames]
        self._away = [self._meant(away_from(rig, state, rig.rest)) for state in self.states]
        together = {x for away in self._away for x in away}
        self._union = self._held_of(together)

    @property
    def named(self) -> bool:
        """Whether all frames have names of their own."""
        return bool(self.frames) and all(f in self._sequence.names for f in self.frames)

    def _meant(self, away: Away) -> set[ChannelId]:
        rig, selected = self._draft.actor.rig, self._draft.selected
        return {x for x in away if not selected or row_of(rig, x) in selected}

    def _held_of(self, away: set[ChannelId]) -> ChosenChannels:
        """Exactly these, of a hand shape without the hand's own turn."""
        rig = self._draft.actor.rig
        rows = {x: row_of(rig, x) for x in away}
        kept = without_own_turn(rig, [row for row in rows.values() if row is not None])
        settings = {x for x in away if x.is_setting}
        chosen = ChosenChannels(rig, ())
        chosen.only(sorted(settings | {x for x in away if rows[x] in kept}))
        return chosen

    def _chosen(self, number: int, held: HeldBy) -> ChosenChannels:
        if held is HeldBy.EACH:
            return self._held_of(self._away[number])
        return (self._union if held is HeldBy.ALL else self._draft.chosen).copy()

    def left_out(self, number: int, one: CaptureDraft) -> int:
        """How many channels and settings are away from rest at a frame and not in its card."""
        return len(self._away[number] - set(one.channel_ids))

    def drafts(self, held: HeldBy, pattern: str) -> list[CaptureDraft]:
        """A draft for every frame, those too that would hold nothing.

        Raises:
            FoxHandError: as :func:`named_by`.
        """
        draft, sequence, found = self._draft, self._sequence, []
        for number, frame in enumerate(self.frames):
            chosen = self._chosen(number, held)
            one = CaptureDraft(draft.actor, draft.selected, self.states[number], chosen)
            said = sequence.names.get(frame)
            one.sheet = said.sheet if said is not None else draft.sheet
            one.tags, one.note = draft.tags, draft.note
            one.author, one.licence = draft.author, draft.licence
            one.style, one.ground, one.both = draft.style, draft.ground, draft.both
            one.frame = draft.frame
            one.taken_from, one.taken_frame = sequence.name, float(sequence.number(frame))
            one.name = named_by(pattern, self._values(number))
            found.append(one)
        return found

    def _values(self, number: int) -> dict[str, str | int]:
        draft, sequence = self._draft, self._sequence
        said = sequence.names.get(self.frames[number])
        return {
            "sheet": draft.sheet.rpartition("/")[2] or "card",
            "n": number + 1,
            "frame": sequence.number(self.frames[number]),
            "character": draft.actor.rig.name,
            "source": sequence.name,
            "slot": said.name if said is not None else f"{number + 1}",
        }


def held_words(draft: CaptureDraft) -> str:
    """What a card would hold, for lists: "Head 3, Mouth 2"; empty where it would be empty."""
    rig, counts = draft.actor.rig, dict[str, int]()
    label = {row: group.label for group in draft.groups for row in group.rows}
    for channel_id in draft.channel_ids:
        row = row_of(rig, channel_id)
        word = label.get(row, tr("Helpers")) if row is not None else tr("Helpers")
        counts[word] = counts.get(word, 0) + 1
    parts = ", ".join(f"{word} {count}" for word, count in counts.items())
    return (
        parts
        if len(counts) < 2
        else tr("{values} in all: {parts}", values=sum(counts.values()), parts=parts)
    )
