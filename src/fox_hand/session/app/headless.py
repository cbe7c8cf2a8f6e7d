"""Work on files without a workspace: for the command line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.motion_wish import AS_IT_IS, MotionWish
from fox_hand.core.animation.clip import Clip
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, Pose, take
from fox_hand.core.pose.sides import Sides
from fox_hand.core.puppet.between_views import view_of_pose
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.backdrop import standing_at
from fox_hand.core.view.render_request import Standing
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.name_map import NameMap, read_map
from fox_hand.library.store.store import own_folder_over
from fox_hand.session.animating.clips import clip_on, lost_of_clip
from fox_hand.session.animating.motion_import import Performed, frame_of, performed
from fox_hand.session.applying.fit_draft import FitDraft
from fox_hand.session.applying.mix import Mix, Mixed
from fox_hand.session.applying.preparation import prepared
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.snapshot import wake
from fox_hand.session.figures.snapshot_keys import KeptTime
from fox_hand.session.shots.backdrops import placed, read_backdrop
from fox_hand.session.shots.shot_file import read_shot


@dataclass(frozen=True)
class OpenShot:
    """A shot that was read with its characters.

    Args:
        actors: those whose files are there.
        time: range and rate.
        missing: sentences about what is not there.
        backdrops: the pictures behind and before them.
    """

    actors: tuple[Figure, ...]
    time: KeptTime
    missing: tuple[str, ...]
    backdrops: tuple[Standing, ...] = ()

    def actor(self, prefix: str = "") -> Figure:
        """One of them; the first without a word.

        Raises:
            FoxHandError: ``shot.nobody``.
        """
        if not self.actors:
            raise FoxHandError(
                "shot.no_rigs",
                tr("None of the shot's characters could be opened."),
                tr("Nothing was written."),
                " ".join(self.missing),
            )
        found = [a for a in self.actors if not prefix or a.prefix == prefix]
        if not found:
            known = ", ".join(a.prefix for a in self.actors) or tr("nobody")
            raise FoxHandError(
                "shot.nobody",
                tr("There is no {prefix} in the shot.", prefix=prefix or tr("character")),
                tr("Nothing was written."),
                tr("There is {known}.", known=known),
            )
        return found[0]

    def standing(self, frame: float) -> tuple[Standing, ...]:
        """Everybody at a frame."""
        return tuple(actor.standing_in(actor.take.at(frame)) for actor in self.actors)


def open_shot_file(path: Path) -> OpenShot:
    """Read a shot and its characters.

    Raises:
        FoxHandError: if the shot cannot be read.
    """
    kept = read_shot(path)
    actors, missing = [], []
    rigs: dict[Path, Rig] = {}  # copies of one file are read once
    for member in kept.members:
        file = Path(member.path)
        try:
            rigs[file] = rigs.get(file) or read_rig(file)
            actor = Figure(rigs[file], file, member.prefix)
        except FoxHandError as error:
            missing.append(f"{member.prefix}: {file}: {error.happened}")
            continue
        wake(actor, member)
        actors.append(actor)
    behind = []
    for one in kept.backdrops:
        try:
            behind.append(standing_at(read_backdrop(Path(one.path)), placed(one)))
        except FoxHandError as error:
            missing.append(error.happened)
    return OpenShot(tuple(actors), kept.time or KeptTime(), tuple(missing), tuple(behind))


def card_on(card: Card, actor: Figure, path: Path) -> Mixed:
    """A card as it goes on a character, with what was said about the names in the library it lies
    in. A puppet that does nothing yet is seen in the view the card is drawn for.

    Raises:
        FoxHandError: ``mix.nothing_lands``.
    """
    drawn, view = view_of_pose(actor.rig, card.pose), actor.rig.views.view
    if drawn is not None and view is not None and not actor.keys:
        values = actor.state.settings.copy()
        values[view] = drawn
        actor.show(actor.state.with_(settings=values))
    entry = Entry(path, "", identity=card.identity, name=card.name, revision=card.revision)
    return prepared(
        entry, card, actor, lambda: FitDraft(card, actor, saved_names(path, card, actor.rig))
    )


@dataclass(frozen=True)
class Laid:
    """How a card goes onto frames.

    Args:
        amount, side: as in the mix.
        first, last: frames that wear it whole.
        blend: frames over which it comes in before, and goes out after.
    """

    amount: float = 1.0
    side: Sides = Sides.CAPTURED
    first: int = 0
    last: int = 0
    blend: int = 0

    def weight(self, frame: int) -> float:
        """How much of it is on at a frame."""
        if self.first <= frame <= self.last:
            return 1.0
        away = self.first - frame if frame < self.first else frame - self.last
        return max(1.0 - away / (self.blend + 1), 0.0)


def worn(ready: Mixed, actor: Figure, how: Laid) -> State:
    """A character with a card on it, from how it stands."""
    mix = Mix(actor, ready, ())
    mix.set_side(how.side)
    mix.set_amount(how.amount)
    state = actor.state
    mix.put_back()
    return state


def worn_over(ready: Mixed, actor: Figure, states: State, how: Laid) -> State:
    """Frames of a character with a card on some of them."""
    arrays = [values.copy() for values in states.arrays()]
    before = actor.state
    for frame in range(states.turn.shape[0]):
        weight = how.weight(frame)
        if weight <= 0:
            continue
        actor.show(frame_of(states, frame))
        mix = Mix(actor, ready, ())
        mix.set_side(how.side)
        mix.set_amount(how.amount * weight)
        for values, own in zip(arrays, actor.state.arrays(), strict=True):
            values[frame] = own
    actor.show(before)
    return State(*arrays)


def frames_for(path: Path, rig: Rig, wish: MotionWish = AS_IT_IS) -> Performed:
    """The frames of a file on a character.

    Raises:
        FoxHandError: if it holds none, or none fit.
    """
    return performed(path, rig, wish)


def moved_pose(rig: Rig, state: State) -> Pose:
    """Everything of a figure that is away from rest."""
    rows = np.flatnonzero(state.differs_from(rig.rest, rig.settings_of)).tolist()
    return take(rig, state, ChannelFilter.of(rig, rows))


def saved_names(path: Path, card: Card, rig: Rig) -> NameMap:
    """What was said in the library a card lies in about its rig's names and another's.

    Raises:
        FoxHandError: if the name map cannot be read.
    """
    own = own_folder_over(path)
    return read_map(own, card.character, rig.name) if own else NameMap(card.character, rig.name)


def clip_of(path: Path, card: Card, actor: Figure) -> tuple[Clip, tuple[str, ...]]:
    """What a character plays of a clip card (fitted where it is another's), and sentences about
    what does not land.

    Args:
        path: where the card lies; its library may know the names.
        card: what was read there.
        actor: who plays it.

    Raises:
        FoxHandError: ``clip.none`` for cards of poses, ``clip.nothing_lands``.
    """
    if card.clip is None:
        raise FoxHandError(
            "clip.none",
            tr("{name} is a pose; it does not move.", name=card.name),
            tr("Nothing was written."),
            tr("Use apply to put it on a character."),
        )
    names = saved_names(path, card, actor.rig)
    return clip_on(card, actor, names), lost_words(lost_of_clip(card, actor, names), actor)


def lost_words(names: Sequence[str], actor: Figure) -> tuple[str, ...]:
    """What is said about controls of a card that a character does not have."""
    if not names:
        return ()
    hint = tr("The Fit screen keeps in the library which names belong together.")
    return (
        tr(
            "Not on {name}: {names}. {hint}", name=actor.rig.name, names=", ".join(names), hint=hint
        ),
    )
