"""Cards of everything a file holds: each of its animations, each of its expressions."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.motion_wish import MotionWish
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.model.controls import Channel
from fox_hand.core.pose.pose import ChannelFilter, take
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.gltf import Expression, read_expressions
from fox_hand.library.format.card import Card
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.animating.motion_import import Told, performed
from fox_hand.session.capturing.capture_pictures import CapturePictures
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.capturing.reshooting import reshot
from fox_hand.session.figures.figure import Figure
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.storing import Storing, Wanted

FEELINGS = ("happy", "angry", "sad", "relaxed", "surprised", "neutral", "")
Make = Callable[[], Card]


def animation_card(
    path: Path, actor: Figure, animation: str, name: str, names: Told | None = None
) -> Card:
    """One animation of a file as a card of a character: a clip, or a pose where it is one frame.

    Args:
        path, animation: the file, and which of its animations.
        actor: the character.
        name: of the card.
        names: as of :func:`fox_hand.session.animating.motion_import.performed`.

    Raises:
        FoxHandError: for files that cannot be read, or ``capture.empty`` where nothing moves.
    """
    found = performed(path, actor.rig, MotionWish(animation=animation), names)
    sequence = FrameSequence(actor, found.states, found.rate, name, keys=found.keys)
    first, lines = sequence.at(0), sequence.lines(0.0, found.rate)
    draft = CaptureDraft(actor, (), first)
    one = len(sequence) < 2
    draft.chosen.only(draft.away() if one else [*lines, *_between(actor.rig, lines)])
    if not draft.channel_ids:
        raise empty(name)
    draft.name, draft.taken_from, draft.taken_frame = name, path.stem, 1.0
    card = draft.card()
    if one:
        return card
    length = max(float(line.frames[-1]) for line in lines.values())
    return replace(card, kind="clip", clip=Clip(lines, length, found.rate))


def _between(rig: Rig, lines: Iterable[ChannelId]) -> list[ChannelId]:
    """Turns of the joints on which others hang that move, up to the topmost of these: with them the
    card says how all of them rest, and others can follow it without this rig."""
    rows = {rig.control_row[x.name] for x in lines if x.name in rig.control_row}
    top = min(rows, default=0, key=lambda row: rig.controls[row].node)
    found = set[int]()
    for row in rows:
        above = rig.parents[row]
        while above >= 0 and above not in rows | found and top in _over(rig, above):
            found.add(above)
            above = rig.parents[above]
    return [
        ChannelId(ChannelKind.TURN, rig.controls[row].name)
        for row in sorted(found)
        if Channel.TURN in rig.controls[row].channels
    ]


def _over(rig: Rig, row: int) -> set[int]:
    found = set[int]()
    while row >= 0:
        found.add(row)
        row = rig.parents[row]
    return found


def expression_cards(path: Path, rig: Rig) -> list[tuple[str, Make]]:
    """The expressions of a file as cards of its character, each with its name.

    Feelings hold all that any of them moves, so that one takes the place of another; a mouth shape
    holds what mouth shapes move, a blink or a look only its own.

    Raises:
        FoxHandError: if the file cannot be read, or ``expressions.none``.
    """
    found = [e for e in read_expressions(path) if _known(e, rig) or e.preset == "neutral"]
    feelings = {s for e in found if e.preset in FEELINGS for s in _known(e, rig)}
    shapes = {s for e in found if _is_viseme(e) for s in _known(e, rig)}
    if not any(_known(e, rig) for e in found):
        raise FoxHandError(
            "expressions.none",
            tr("{name} has no expressions made of shapes.", name=path.name),
            tr("Nothing was changed."),
            tr("Expressions are in VRM files, whose face is made of morph targets."),
        )
    cards: list[tuple[str, Make]] = []
    for one in found:
        held = feelings if one.preset in FEELINGS else shapes if _is_viseme(one) else set()
        name = one.name[:1].upper() + one.name[1:]
        cards.append((name, partial(_expression, rig, one, name, held | _known(one, rig), path)))
    return cards


def _known(one: Expression, rig: Rig) -> set[str]:
    return {name for name in one.values if name in rig.setting_row}


def _is_viseme(one: Expression) -> bool:
    return one.preset in ("aa", "ih", "ou", "ee", "oh")


def _expression(rig: Rig, one: Expression, name: str, held: set[str], path: Path) -> Card:
    settings = rig.rest.settings.copy()
    rows = [rig.setting_row[s] for s in sorted(held)]
    for row in rows:
        settings[row] = one.values.get(rig.settings[row].name, 0.0)
    state = rig.rest.with_(settings=settings)
    draft = CaptureDraft(Figure(rig, path), (), state)
    draft.chosen.only([ChannelId(ChannelKind.SETTING, rig.settings[row].name) for row in rows])
    if not draft.channel_ids:
        raise empty(name)
    draft.name, draft.tags = name, ("expression", *([one.preset] if one.preset else []))
    if one.more:
        draft.note = tr("Without its {names}.", names=" and ".join(one.more))
    card = draft.card()
    return replace(card, pose=take(rig, state, ChannelFilter({}, frozenset(rows))))


def empty(name: str) -> FoxHandError:
    """What is said of something that would be a card of nothing."""
    return FoxHandError(
        "capture.empty",
        tr("Nothing of {name} moves anything.", name=name),
        tr("No card was made of it."),
    )


class FileCards:
    """Puts cards of files into a library: many in one step, told one by one where they fail.

    Args:
        open_libraries, storing: where they go.
        drawing: draws; asked when it is needed.
    """

    def __init__(
        self,
        open_libraries: OpenLibraries,
        storing: Storing,
        drawing: Callable[[], CapturePictures],
    ) -> None:
        self._open_libraries, self._storing, self._drawing = open_libraries, storing, drawing

    def take(
        self,
        label: str,
        actor: Figure,
        made: Sequence[tuple[str, Make]],
        sheet: str,
        then: Callable[[Outcome], None] | None = None,
    ) -> bool:
        """Make cards in a job and store them; whether there is a library for them.

        Args:
            label: of the step.
            actor: whose cards.
            made: their names, and what makes each.
            sheet: where they go.
            then: called afterwards.
        """
        place = self._open_libraries.target
        if place is None or not place.writable or not made:
            return False
        tasks = [(name, partial(self._wanted, actor, make, sheet)) for name, make in made]
        self._storing.store_later(label, place, tasks, then)
        return True

    def _wanted(self, actor: Figure, make: Make, sheet: str) -> Wanted:
        again = reshot(make(), actor, self._drawing())
        return Wanted(again.card, again.pictures, sheet)
