"""``fox-hand apply`` and ``capture``: poses between cards, characters and motion."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from fox_hand.base.language import tr, tr_n
from fox_hand.cli.options import STDIO, Animation, Rate, UnitOption, Who, wish_of
from fox_hand.cli.talk import Talk, command

if TYPE_CHECKING:
    from fox_hand.base.motion_wish import MotionWish
    from fox_hand.core.model.state import State
    from fox_hand.core.pose.pose import Pose
    from fox_hand.session.capturing.draft import CaptureDraft
    from fox_hand.session.figures.figure import Figure


class SideWord(StrEnum):
    """On which side a card goes on."""

    CAPTURED = "captured"
    OTHER = "other"
    BOTH = "both"


def add_motion_commands(app: typer.Typer) -> None:
    command(app, facts=True)(apply)
    command(app, facts=True)(capture)


def apply(
    talk: Talk,
    cards: Annotated[
        list[Path], typer.Argument(help=tr("Cards of poses, put on in this order; - reads one."))
    ],
    onto: Annotated[Path, typer.Argument(help=tr("A character, or a file with its animation."))],
    *,
    out: Annotated[
        Path | None,
        typer.Option("--out", "-o", help=tr("The file to write; - is standard output.")),
    ] = None,
    in_place: Annotated[
        bool, typer.Option("--in-place", help=tr("Write an animation back into the file itself."))
    ] = False,
    amount: Annotated[float, typer.Option(min=-50, max=150, help=tr("Percent."))] = 100.0,
    side: Annotated[SideWord, typer.Option(help=tr("On which side."))] = SideWord.CAPTURED,
    frame: Annotated[
        int | None, typer.Option(min=1, help=tr("Put it on the animation at this frame, from 1."))
    ] = None,
    until: Annotated[int | None, typer.Option(min=1, help=tr("Hold it until this frame."))] = None,
    blend: Annotated[
        int, typer.Option(min=0, max=10_000, help=tr("Frames over which it comes in and goes out."))
    ] = 4,
    rate: Rate = None,
    animation: Animation = None,
    unit: UnitOption = None,
) -> None:
    """Put cards on a character, or on frames of its animation."""
    _agree(out, in_place, frame, until, onto, json=talk.json)
    wish = wish_of(rate, animation, unit)

    def work() -> tuple[_Applied, tuple[str, ...]]:
        span = _Span.of(frame, until, blend)
        applied = _Applied.of(cards, onto, amount / 100.0, side, span, wish)
        return applied, applied.write(onto if in_place else out, in_place=in_place)

    applied, notes = talk.or_exit(work)
    if talk.json:
        talk.data({**applied.values(), "missing": list(applied.missing)})
    elif out is not None and out != STDIO:
        talk.fact(str(out))
    elif in_place:
        talk.fact(str(onto))
    talk.end_with((*notes, *applied.lost))


def _agree(
    out: Path | None,
    in_place: bool,
    frame: int | None,
    until: int | None,
    onto: Path,
    *,
    json: bool,
) -> None:
    """Refuse options that cannot be meant together."""
    if until is not None and (frame is None or until < frame):
        raise typer.BadParameter(tr("--until is a frame from --frame on"))
    if out is not None and in_place:
        raise typer.BadParameter(tr("either -o FILE or --in-place"))
    if in_place and (frame is None or onto.suffix.lower() not in (".glb", ".bvh")):
        raise typer.BadParameter(
            tr(
                "--in-place writes frames (--frame) back into a .glb or .bvh file; a pose would "
                "become "
                "the character's rest"
            )
        )
    if out is None and not in_place and not json:
        raise typer.BadParameter(tr("say where to write it: -o FILE, or --json for the values"))


@dataclass(frozen=True)
class _Span:
    first: int
    last: int
    blend: int

    @staticmethod
    def of(frame: int | None, until: int | None, blend: int) -> _Span | None:
        return None if frame is None else _Span(frame - 1, (until or frame) - 1, blend)


@dataclass(frozen=True)
class _Applied:
    """Cards on a character: one pose, or frames."""

    actor: Figure
    name: str
    states: State
    rate: float | None
    shown: State
    pose: Pose
    missing: tuple[str, ...]
    lost: tuple[str, ...]

    @staticmethod
    def of(
        cards: list[Path],
        onto: Path,
        amount: float,
        side: SideWord,
        span: _Span | None,
        wish: MotionWish,
    ) -> _Applied:
        from fox_hand.core.pose.pose import Pose
        from fox_hand.core.pose.sides import Sides
        from fox_hand.interchange.readers import read_rig
        from fox_hand.session.animating.motion_import import frame_of
        from fox_hand.session.app.headless import (
            Laid,
            card_on,
            frames_for,
            lost_words,
            moved_pose,
            worn,
            worn_over,
        )
        from fox_hand.session.figures.figure import Figure

        actor, own = Figure(read_rig(onto, wish.metres_per_unit), onto), None
        states = actor.rig.rest
        if span is not None:
            frames = frames_for(onto, actor.rig, wish)
            states, own = frames.states, frames.rate
            _within(states, span, onto)
        held: dict[str, Any] = {}
        missing: list[str] = []
        name = ""
        for path in cards:
            read = read_one(path)
            ready = card_on(read, actor, path)
            missing += ready.fit.missing
            held |= dict(ready.card.pose.controls)
            name = read.name
            if span is None:
                states = worn(ready, actor, Laid(amount, Sides(side.value)))
                actor.show(states)
            else:
                how = Laid(amount, Sides(side.value), span.first, span.last, span.blend)
                states = worn_over(ready, actor, states, how)
        shown = states if span is None else frame_of(states, span.first)
        if side is not SideWord.CAPTURED:  # it is on other controls than the card names
            held = dict(moved_pose(actor.rig, shown).controls)
        lost = lost_words(tuple(dict.fromkeys(missing)), actor)
        return _Applied(actor, name, states, own, shown, Pose(held), tuple(missing), lost)

    def write(self, out: Path | None, *, in_place: bool) -> tuple[str, ...]:
        from fox_hand.core.animation.motion import motion_of
        from fox_hand.interchange.motions import motion_bytes
        from fox_hand.session.exporting.motion_export import pose_bytes, write_motion, write_pose

        rig, rate = self.actor.rig, self.rate
        if out is None:
            return ()
        if rate is None:
            if out == STDIO:
                _put(pose_bytes(rig, self.states, self.name))
            else:
                write_pose(out, rig, self.states)
            return ()
        motion = motion_of(self.name, rig, self.states, rate)
        if out != STDIO:
            return write_motion(out, rig, motion, in_place=in_place)
        data, notes = motion_bytes(".glb", rig, motion)
        _put(data)
        return notes

    def values(self) -> dict[str, Any]:
        from fox_hand.api.values import values_of

        return values_of(self.actor.rig, self.shown, self.pose)


def _within(states: State, span: _Span, path: Path) -> None:
    from fox_hand.base.errors import FoxHandError

    count = states.turn.shape[0]
    if span.last >= count:
        raise FoxHandError(
            "frame.beyond",
            tr_n(
                "{name} has {number} frame; frame {last} is not one of them.",
                "{name} has {number} frames; frame {last} is not one of them.",
                count,
                name=path.name,
                last=span.last + 1,
            ),
            tr("Nothing was written."),
        )


def _put(data: bytes) -> None:
    typer.get_binary_stream("stdout").write(data)


def read_one(path: Path) -> Any:
    """A card from a file, or from standard input."""
    from fox_hand.library.format.container import read_card

    if path != STDIO:
        return read_card(path)[0]
    from fox_hand.base.files.inputs import CARD
    from fox_hand.base.files.scratch import scratch_folder

    with scratch_folder() as folder:
        file = folder / "card.foxcard"
        file.write_bytes(typer.get_binary_stream("stdin").read(CARD + 1))
        return read_card(file)[0]


def capture(
    talk: Talk,
    file: Annotated[Path, typer.Argument(help=tr("A shot, or a file with motion or in a pose."))],
    *,
    name: Annotated[str, typer.Option("--name", help=tr("What it is called."))] = "",
    library: Annotated[
        Path | None, typer.Option("--library", help=tr("The library it goes into."))
    ] = None,
    frame: Annotated[int, typer.Option("--frame", min=1, help=tr("Which frame, from 1."))] = 1,
    sheet: Annotated[str, typer.Option("--sheet", help=tr("In which sheet."))] = "",
    rig: Annotated[
        Path | None, typer.Option("--rig", help=tr("The character, for files with motion."))
    ] = None,
    who: Who = "",
    author: Annotated[str, typer.Option("--author", help=tr("Who signs it."))] = "",
    rate: Rate = None,
    animation: Animation = None,
    unit: UnitOption = None,
) -> None:
    """Take a card of what stands away from rest at a frame."""
    if library is None and not talk.json:
        raise typer.BadParameter(
            tr("say where it goes: --library FOLDER, or --json for the values")
        )
    if library is not None and not name.strip():
        raise typer.BadParameter(tr("a card needs a name: --name NAME"))
    wish = wish_of(rate, animation, unit)
    draft = talk.or_exit(lambda: _drafted(file, rig, who, frame, wish))
    draft.name, draft.author = name, author
    path = None
    if library is not None:
        if not draft.channel_ids:
            talk.problem(
                tr(
                    "{name} stands at rest at frame {frame}: the card would be empty.",
                    name=file.name,
                    frame=frame,
                )
            )
            raise typer.Exit(1)
        path = talk.or_exit(lambda: _taken(draft, library, sheet))
    if talk.json:
        from fox_hand.api.values import values_of

        values = values_of(draft.actor.rig, draft.state, draft.pose)
        talk.data({"card": None if path is None else str(path), **values})
    else:
        talk.fact(str(path))


def _drafted(file: Path, rig: Path | None, who: str, frame: int, wish: MotionWish) -> CaptureDraft:
    """A card of all that is away from rest, as the window would take it."""
    from fox_hand.session.capturing.draft import CaptureDraft

    actor, state = _standing(file, rig, who, frame, wish)
    draft = CaptureDraft(actor, (), state)
    draft.chosen.only(draft.away())
    draft.taken_from, draft.taken_frame = file.stem, float(frame)
    return draft


def _standing(
    file: Path, rig: Path | None, who: str, frame: int, wish: MotionWish
) -> tuple[Figure, State]:
    from fox_hand.base.errors import FoxHandError
    from fox_hand.interchange.readers import read_rig
    from fox_hand.session.animating.motion_import import frame_of
    from fox_hand.session.app.headless import frames_for, open_shot_file
    from fox_hand.session.figures.figure import Figure
    from fox_hand.session.shots.shot_file import SUFFIX

    if file.suffix == SUFFIX:
        shot = open_shot_file(file)
        actor = shot.actor(who)
        if not shot.time.first <= frame <= shot.time.last:
            raise FoxHandError(
                "frame.beyond",
                tr(
                    "{name} goes from frame {first} to {last}; {frame} is not one of them.",
                    name=file.name,
                    first=shot.time.first,
                    last=shot.time.last,
                    frame=frame,
                ),
                tr("Nothing was written."),
            )
        return actor, actor.take.at(float(frame))
    owner = read_rig(rig or file, wish.metres_per_unit if rig is None else None)
    states = frames_for(file, owner, wish).states
    _within(states, _Span(frame - 1, frame - 1, 0), file)
    return Figure(owner, rig or file), frame_of(states, frame - 1)


def _taken(draft: CaptureDraft, library: Path, sheet: str) -> Path:
    from fox_hand.cli.reshooter import Reshooter, renderers
    from fox_hand.library.store.store import Library

    folder = Library(library)
    with renderers(1) as drawing:
        shot, (small, large, *_) = Reshooter(draft.actor.rig, drawing).drawn(draft.card())
    return folder.add(shot, small, sheet, large)
