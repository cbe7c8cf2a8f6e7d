"""``fox-hand convert``: motion from one kind of file into another."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.cli.options import Animation, Rate, UnitOption, Who, wish_of
from fox_hand.cli.talk import Talk, command

if TYPE_CHECKING:
    from fox_hand.base.motion_wish import MotionWish
    from fox_hand.core.animation.motion import Motion
    from fox_hand.core.rig.rig import Rig
    from fox_hand.session.app.headless import OpenShot
    from fox_hand.session.figures.figure import Figure


def add_convert(app: typer.Typer) -> None:
    command(app)(convert)


@dataclass(frozen=True)
class _Moved:
    """One figure's motion, what stayed out of it, and what else is to be said about it."""

    rig: Rig
    motion: Motion
    lost: tuple[str, ...] = ()
    said: tuple[str, ...] = ()


def convert(
    talk: Talk,
    sources: Annotated[
        list[Path],
        typer.Argument(help=tr("Shots, clips, or files with motion; last, what to write.")),
    ],
    *,
    out: Annotated[
        Path | None,
        typer.Option(
            "--out", "-o", help=tr("Instead of the last: a file, or a folder for several.")
        ),
    ] = None,
    rig: Annotated[
        Path | None, typer.Option("--rig", help=tr("Who moves: for clips, or to lay motion on."))
    ] = None,
    who: Who = "",
    kind: Annotated[
        str, typer.Option("--to", help=tr("For a folder: glb, usda, usdc or bvh."))
    ] = "glb",
    alone: Annotated[bool, typer.Option("--alone", help=tr("Skeleton and motion only."))] = False,
    rate: Rate = None,
    animation: Animation = None,
    unit: UnitOption = None,
) -> None:
    """Motion from one kind of file into another: .glb, .usda, .usdc or .bvh. Of a shot every
    character is written, each into a file with its prefix where there are several."""
    if out is None:
        if len(sources) < 2:
            raise typer.BadParameter(tr("say what to write: convert SOURCE OUT, or -o OUT"))
        *sources, out = sources
    into_folder = len(sources) > 1 or out.is_dir()
    if into_folder and not out.is_dir() and out.suffix:
        raise typer.BadParameter(tr("several files go into a folder, and {out} is none", out=out))
    notes: list[str] = []
    failed = False
    wish = wish_of(rate, animation, unit)
    for source in sources:
        target = out / f"{source.stem}.{kind.lstrip('.')}" if into_folder else out
        try:
            notes += _one(talk, source, target, rig, who, wish, alone=alone)
        except typer.Exit:  # it was said; the others go on
            failed = True
    if failed:
        for note in notes:
            talk.problem(note)
        raise typer.Exit(1)
    talk.end_with(notes)


def _one(
    talk: Talk,
    source: Path,
    target: Path,
    rig: Path | None,
    who: str,
    wish: MotionWish,
    *,
    alone: bool,
) -> Iterator[str]:
    from fox_hand.base.files.outputs import keep_inputs
    from fox_hand.library.files.atomic import make_folder
    from fox_hand.session.exporting.motion_export import keep_what_is_open, write_motion
    from fox_hand.session.shots.shot_file import SUFFIX as SHOT

    jobs: list[tuple[Path, Callable[[], _Moved]]]
    read = [source] if rig is None else [source, rig]
    if source.suffix == SHOT:
        shot, jobs = talk.or_exit(lambda: _of_shot(source, target, who, wish.rate))
        yield from shot.missing
        read += [actor.path for actor in shot.actors]
    else:
        jobs = [(target, lambda: _moved(source, rig, wish))]
    talk.or_exit(lambda: make_folder(target.parent))
    for path, made in jobs:

        def work(path: Path = path, made: Callable[[], _Moved] = made) -> tuple[str, ...]:
            keep_inputs(path, read)
            keep_what_is_open(path, read)
            moved = made()
            for words in moved.said:
                talk.note(words)
            return (*moved.lost, *write_motion(path, moved.rig, moved.motion, alone=alone))

        yield from talk.or_exit(work)
        talk.fact(str(path))


def _of_shot(
    source: Path, target: Path, who: str, rate: float | None
) -> tuple[OpenShot, list[tuple[Path, Callable[[], _Moved]]]]:
    from fox_hand.session.app.headless import open_shot_file
    from fox_hand.session.exporting.motion_export import shot_motion

    shot = open_shot_file(source)
    chosen = [shot.actor(who)] if who or not shot.actors else list(shot.actors)
    span, own = (float(shot.time.first), float(shot.time.last)), shot.time.rate

    def moved(actor: Figure) -> _Moved:
        return _Moved(actor.rig, shot_motion(actor.take, source.stem, span, own, rate))

    def job(actor: Figure) -> tuple[Path, Callable[[], _Moved]]:
        path = target
        if len(chosen) > 1:
            path = target.with_name(f"{target.stem}_{actor.prefix}{target.suffix}")
        return path, lambda: moved(actor)

    return shot, [job(actor) for actor in chosen]


def _moved(source: Path, rig: Path | None, wish: MotionWish) -> _Moved:
    from fox_hand.base.errors import FoxHandError
    from fox_hand.core.animation.motion import motion_of
    from fox_hand.interchange.motions import read_performance
    from fox_hand.interchange.readers import read_rig
    from fox_hand.library.format.container import read_card
    from fox_hand.library.format.schema import SUFFIX as CARD
    from fox_hand.session.animating.motion_import import unit_words
    from fox_hand.session.app.headless import clip_of, frames_for
    from fox_hand.session.exporting.motion_export import clip_motion
    from fox_hand.session.figures.figure import Figure

    if source.suffix == CARD:
        if rig is None:
            raise FoxHandError(
                "clip.no_rig",
                tr("A clip needs a character: --rig FILE."),
                tr("Nothing was written."),
            )
        owner = read_rig(rig)
        card = read_card(source)[0]
        clip, lost = clip_of(source, card, Figure(owner, rig))
        return _Moved(owner, clip_motion(clip, card.name, owner, wish.rate), lost)
    if rig is not None:
        owner = read_rig(rig)
        frames = frames_for(source, owner, wish)
        motion = motion_of(source.stem, owner, frames.states, frames.rate)
        return _Moved(owner, motion, frames.lost, frames.changed)
    found = read_performance(source, wish.rate, wish.animation, wish.metres_per_unit)
    motion = motion_of(found.name, found.rig, found.states, found.rate)
    return _Moved(found.rig, motion, said=unit_words(found))
