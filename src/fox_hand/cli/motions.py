"""``fox-hand apply``, ``capture`` and ``convert``: poses and motion between files."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from fox_hand.cli.ending import end_with, or_exit

if TYPE_CHECKING:
    from fox_hand.core.motion import Motion
    from fox_hand.core.rig import Rig


class SideWord(StrEnum):
    """On which side a card goes on."""

    CAPTURED = "captured"
    OTHER = "other"
    BOTH = "both"


Out = Annotated[Path, typer.Option("--out", "-o", help="The file to write.")]
Rate = Annotated[float | None, typer.Option("--rate", help="Frames a second to sample at.")]


def add_motion_commands(app: typer.Typer) -> None:
    app.command()(apply)
    app.command()(capture)
    app.command()(convert)


def apply(
    card: Annotated[Path, typer.Argument(help="A card of a pose.")],
    onto: Annotated[Path, typer.Argument(help="A character, or a glTF file with an animation.")],
    out: Out,
    amount: Annotated[float, typer.Option(help="Percent, -50 to 150.")] = 100.0,
    side: Annotated[SideWord, typer.Option(help="On which side.")] = SideWord.CAPTURED,
    frame: Annotated[
        int | None, typer.Option(help="Put it on the animation at this frame, from 1.")
    ] = None,
    until: Annotated[int | None, typer.Option(help="Hold it until this frame.")] = None,
    blend: Annotated[int, typer.Option(help="Frames over which it comes in and goes out.")] = 4,
    rate: Rate = None,
) -> None:
    """Put a card on a character, or on frames of its animation."""
    from fox_hand.core.motion import motion_of
    from fox_hand.core.sides import Sides
    from fox_hand.interchange.readers import read_rig
    from fox_hand.library.container import read_card
    from fox_hand.session.actor import Actor
    from fox_hand.session.bare import Laid, frames_for, lost_words, ready_for, worn, worn_over
    from fox_hand.session.taking_out import write_motion, write_pose

    def work() -> tuple[str, ...]:
        read, rig = read_card(card)[0], read_rig(onto)
        actor = Actor(rig, onto)
        ready = ready_for(read, actor, card)
        share, way = min(max(amount, -50.0), 150.0) / 100.0, Sides(side.value)
        if frame is None:
            write_pose(out, rig, worn(ready, actor, Laid(share, way)))
            notes: tuple[str, ...] = ()
        else:
            first = max(frame - 1, 0)
            states, own = frames_for(onto, rig, rate)
            how = Laid(share, way, first, max((until or frame) - 1, first), max(blend, 0))
            laid = worn_over(ready, actor, states, how)
            notes = write_motion(out, rig, motion_of(read.name, rig, laid, own))
        return (*notes, *lost_words(ready.fit.missing, actor))

    notes = or_exit(work)
    typer.echo(str(out))
    end_with(notes)


def capture(
    file: Annotated[Path, typer.Argument(help="A shot, or a file with motion.")],
    library: Annotated[Path, typer.Option("--library", help="The library it goes into.")],
    name: Annotated[str, typer.Option("--name", help="What it is called.")],
    frame: Annotated[int, typer.Option("--frame", help="Which frame, from 1.")] = 1,
    sheet: Annotated[str, typer.Option("--sheet", help="In which sheet.")] = "",
    rig: Annotated[
        Path | None, typer.Option("--rig", help="The character, for files with motion.")
    ] = None,
    who: Annotated[str, typer.Option("--who", help="The prefix, of a shot with several.")] = "",
    author: Annotated[str, typer.Option("--author", help="Who signs it.")] = "",
    rate: Rate = None,
) -> None:
    """Take a card of what stands away from rest at a frame."""
    from fox_hand.cli.reshooting import Reshooter
    from fox_hand.interchange.readers import read_rig
    from fox_hand.library.card import Card
    from fox_hand.library.store import Library
    from fox_hand.session.bare import frames_for, moved_pose, open_shot_file
    from fox_hand.session.performing import frame_of
    from fox_hand.session.shot_file import SUFFIX

    def work() -> Path:
        folder = Library(library)
        if file.suffix == SUFFIX:
            actor = open_shot_file(file).actor(who)
            owner, state = actor.rig, actor.take.at(float(frame))
        else:
            owner = read_rig(rig or file)
            states, _ = frames_for(file, owner, rate)
            state = frame_of(states, min(max(frame - 1, 0), states.turn.shape[0] - 1))
        made = Card(
            name,
            moved_pose(owner, state),
            author=author,
            character=owner.name,
            fingerprint=owner.fingerprint,
            source=file.stem,
            source_frame=float(frame),
        )
        shot, small, large = Reshooter(owner).drawn(made)
        return folder.add(shot, small, sheet, large)

    typer.echo(str(or_exit(work)))


def convert(
    source: Annotated[Path, typer.Argument(help="A shot, a clip, or a file with motion.")],
    out: Annotated[Path, typer.Argument(help="A .glb, .usda, .usdc or .bvh file to write.")],
    rig: Annotated[
        Path | None, typer.Option("--rig", help="Who moves: for clips, or to lay motion on.")
    ] = None,
    who: Annotated[str, typer.Option("--who", help="The prefix, of a shot with several.")] = "",
    alone: Annotated[bool, typer.Option("--alone", help="Skeleton and motion only.")] = False,
    rate: Rate = None,
) -> None:
    """Motion from one kind of file into another."""
    from fox_hand.session.taking_out import write_motion

    def work() -> tuple[str, ...]:
        owner, motion, notes = _motion(source, rig, who, rate)
        return (*notes, *write_motion(out, owner, motion, alone=alone))

    notes = or_exit(work)
    typer.echo(str(out))
    end_with(notes)


def _motion(
    source: Path, rig: Path | None, who: str, rate: float | None
) -> tuple[Rig, Motion, tuple[str, ...]]:
    from fox_hand.base.errors import FoxHandError
    from fox_hand.core.motion import motion_of
    from fox_hand.interchange.motions import read_performance
    from fox_hand.interchange.readers import read_rig
    from fox_hand.library.container import read_card
    from fox_hand.library.schema import SUFFIX as CARD
    from fox_hand.session.actor import Actor
    from fox_hand.session.bare import clip_of, frames_for, open_shot_file
    from fox_hand.session.shot_file import SUFFIX as SHOT
    from fox_hand.session.taking_out import clip_motion, shot_motion

    if source.suffix == SHOT:
        shot = open_shot_file(source)
        actor, time = shot.actor(who), shot.time
        span = float(time.first), float(time.last)
        motion = shot_motion(actor.take, source.stem, span, time.rate, rate)
        return actor.rig, motion, shot.missing
    if source.suffix == CARD:
        if rig is None:
            raise FoxHandError("clip.no_rig", "A clip needs a character: --rig FILE.", "")
        owner = read_rig(rig)
        card = read_card(source)[0]
        clip, lost = clip_of(source, card, Actor(owner, rig))
        return owner, clip_motion(clip, card.name, owner, rate), lost
    if rig is not None:
        owner = read_rig(rig)
        states, own = frames_for(source, owner, rate)
        return owner, motion_of(source.stem, owner, states, own), ()
    found = read_performance(source, rate)
    return found.rig, motion_of(found.name, found.rig, found.states, found.rate), ()
