"""``fox-hand sheet`` and ``render``: pictures of cards, characters and shots."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from fox_hand.base.language import tr, tr_n
from fox_hand.cli.cards_found import found, opened
from fox_hand.cli.options import STDIO, Find
from fox_hand.cli.talk import Talk, command

if TYPE_CHECKING:
    from fox_hand.core.view.render_request import Standing
    from fox_hand.render.engine import Engine
    from fox_hand.session.exporting.picture_export import PictureSequence

ORA = ".ora"


def add_picture_commands(app: typer.Typer) -> None:
    command(app)(sheet)
    command(app)(render)


def sheet(
    talk: Talk,
    library: Annotated[Path, typer.Argument(help=tr("The library's folder."))],
    out: Annotated[Path, typer.Option("--out", "-o", help=tr("A .png or .pdf file."))],
    find: Find = "",
    columns: Annotated[int, typer.Option("--columns", min=1, max=20)] = 5,
    chart: Annotated[str, typer.Option("--chart", help=tr("A chart: its slots, gaps too."))] = "",
    character: Annotated[str, typer.Option("--character", help=tr("With --chart: whose."))] = "",
) -> None:
    """A contact sheet of a library's cards, or of a chart with its gaps."""
    if chart:
        from fox_hand.cli.commands.chart_commands import chart_sheet

        chart_sheet(talk, library, out, chart, character, find)
        return
    from fox_hand.library.store.contact_sheet import write_sheet

    open_libraries, place = opened(talk, library)
    entries = found(talk, open_libraries, find)
    title = f"{place.name}, {find}" if find else place.name
    with talk.progress() as work:
        talk.or_exit(lambda: write_sheet(out, entries, title, columns=columns, progress=work))
    talk.fact(str(out))


def render(
    talk: Talk,
    what: Annotated[Path, typer.Argument(help=tr("A shot, a character, or a card with --rig."))],
    out: Annotated[
        Path,
        typer.Option(
            "--out",
            "-o",
            help=tr(
                "A .png; a .webp or .gif; a folder for many .png; - for one .png; of a puppet"
                " an .ora with a layer for each part."
            ),
        ),
    ],
    rig: Annotated[Path | None, typer.Option("--rig", help=tr("Who wears the card."))] = None,
    frame: Annotated[int | None, typer.Option("--frame", min=1, help=tr("One frame."))] = None,
    frames: Annotated[str, typer.Option("--frames", help=tr("Several, as in 1-48."))] = "",
    turntable: Annotated[
        int, typer.Option("--turntable", min=0, max=3600, help=tr("Pictures once around."))
    ] = 0,
    size: Annotated[str, typer.Option("--size", help=tr("Width x height."))] = "640x640",
    clear: Annotated[bool, typer.Option("--clear", help=tr("No background."))] = False,
) -> None:
    """Draw a picture, frames of a shot, or a character from all sides."""
    from fox_hand.base.files.outputs import keep_inputs
    from fox_hand.render.engine import Engine
    from fox_hand.session.exporting.motion_export import keep_what_is_open
    from fox_hand.session.exporting.picture_export import PictureSequence

    width, height = _size(size)
    drawn = talk.or_exit(lambda: _drawn(what, rig))
    first, last = drawn.span
    if frames or frame is not None:
        first, last = _chosen(frames, frame, drawn, what.name)
    elif turntable or out.suffix in (".png", ORA) or out == STDIO:
        last = first
    sequence = PictureSequence(
        drawn.standing,
        range(first, last + 1),
        drawn.rate,
        turntable,
        width,
        height,
        clear=clear,
        backdrops=drawn.backdrops,
    )
    talk.or_exit(lambda: keep_inputs(out, drawn.read))
    talk.or_exit(lambda: keep_what_is_open(out, drawn.read))
    engine = talk.or_exit(Engine)
    if out.suffix == ORA:
        _layers(talk, drawn, first, out, engine)
        return
    _pictures(talk, out, sequence, engine)
    talk.end_with(drawn.notes)


def _pictures(talk: Talk, out: Path, sequence: PictureSequence, engine: Engine) -> None:
    """Write them, or one of them to the standard output."""
    from fox_hand.library.format.thumb import png
    from fox_hand.session.exporting.picture_export import views, write_drawn

    if out == STDIO:
        typer.get_binary_stream("stdout").write(png(engine.draw(views(sequence)[0]()).pixels))
        return
    with talk.progress() as work:
        count = talk.or_exit(
            lambda: write_drawn(out, sequence, lambda v: engine.draw(v).pixels, work)
        )
    talk.fact(tr("{out}\t{count} pictures", out=out, count=count) if count > 1 else str(out))


def _chosen(frames: str, frame: int | None, drawn: _Drawn, name: str) -> tuple[int, int]:
    """The first and the last frame that are asked for."""
    first, last = drawn.span
    chosen = _span(frames) if frames else (frame or first, frame or first)
    if not first <= chosen[0] <= chosen[1] <= last:
        raise typer.BadParameter(
            tr("{name} has the frames {first} to {last}", name=name, first=first, last=last)
        )
    return chosen


def _layers(talk: Talk, drawn: _Drawn, frame: int, out: Path, engine: Engine) -> None:
    """A puppet's seen view as a file of layers."""
    from fox_hand.session.exporting.layers_export import write_layers

    with talk.progress() as work:
        who = talk.or_exit(lambda: _puppet(drawn.standing(float(frame))))
        made = talk.or_exit(lambda: write_layers(out, who, lambda v: engine.draw(v).pixels, work))
    talk.fact(tr_n("{out}\t{number} layer", "{out}\t{number} layers", made, out=out))
    talk.end_with(drawn.notes)


@dataclass(frozen=True)
class _Drawn:
    """What is drawn: who stands how at a frame, frames a second, first and last frame, what does
    not land, which files were read, and what stands behind."""

    standing: Callable[[float], tuple[Standing, ...]]
    rate: float
    span: tuple[int, int]
    notes: Sequence[str]
    read: list[Path]
    backdrops: tuple[Standing, ...] = ()


def _puppet(standing: tuple[Standing, ...]) -> Standing:
    """The first of them that is cut out of drawings, else the first."""
    return next((one for one in standing if one.rig.flat), standing[0])


def _drawn(what: Path, rig: Path | None) -> _Drawn:
    from fox_hand.core.view.render_request import Standing
    from fox_hand.interchange.readers import read_rig
    from fox_hand.library.format.container import read_card
    from fox_hand.library.format.schema import SUFFIX as CARD
    from fox_hand.session.app.headless import (
        Laid,
        card_on,
        clip_of,
        lost_words,
        open_shot_file,
        worn,
    )
    from fox_hand.session.figures.figure import Figure
    from fox_hand.session.shots.shot_file import SUFFIX as SHOT

    if what.suffix == SHOT:
        shot = open_shot_file(what)
        span = shot.time.first, shot.time.last
        read = [what, *(actor.path for actor in shot.actors)]
        if not shot.actors:
            shot.actor()  # says why
        return _Drawn(shot.standing, shot.time.rate, span, shot.missing, read, shot.backdrops)
    owner, read = read_rig(rig or what), [what] if rig is None else [what, rig]
    actor, state = Figure(owner, rig or what), owner.rest
    lost: tuple[str, ...] = ()
    if what.suffix == CARD:
        card = read_card(what)[0]
        if card.clip is not None:
            from fox_hand.core.animation.curves import Keys
            from fox_hand.session.figures.animation import Animation

            clip, lost = clip_of(what, card, actor)
            take = Animation(owner, owner.rest, Keys(clip.lines))

            def at(frame: float) -> tuple[Standing, ...]:
                return (Standing(owner, owner.evaluate(take.at(frame - 1))),)

            return _Drawn(at, card.clip.rate, (1, round(card.clip.length) + 1), lost, read)
        ready = card_on(card, actor, what)
        state, lost = worn(ready, actor, Laid()), lost_words(ready.fit.missing, actor)
    still = (Standing(owner, owner.evaluate(state)),)
    return _Drawn(lambda _: still, 24.0, (1, 1), lost, read)


def _size(text: str) -> tuple[int, int]:
    try:
        width, height = (int(part) for part in text.lower().split("x"))
    except ValueError as error:
        raise typer.BadParameter(tr("{text} is no size such as 640x640", text=text)) from error
    if not (16 <= width <= 8192 and 16 <= height <= 8192):
        raise typer.BadParameter(tr("a side has 16 to 8192 pixels"))
    return width, height


def _span(text: str) -> tuple[int, int]:
    try:
        first, last = (int(part) for part in text.split("-"))
    except ValueError as error:
        raise typer.BadParameter(tr("{text} are no frames such as 1-48", text=text)) from error
    if last < first:
        raise typer.BadParameter(tr("the last frame comes before the first"))
    return first, last
