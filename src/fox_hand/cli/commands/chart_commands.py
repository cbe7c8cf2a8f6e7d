"""``fox-hand chart``: what a character should have, and what is missing."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from fox_hand.base.language import tr
from fox_hand.cli.cards_found import opened
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.talk import PARTLY, Talk, command

if TYPE_CHECKING:
    from fox_hand.session.charts.chart_board import ChartBoard
    from fox_hand.session.libraries.open_library import OpenLibrary

Folder = Annotated[Path, typer.Argument(help=tr("The library's folder."))]
Named = Annotated[str, typer.Option("--chart", help=tr("Only this one, by its name or file."))]
Whose = Annotated[str, typer.Option("--character", help=tr("Only this character."))]


def chart_commands() -> typer.Typer:
    chart = typer.Typer(
        cls=OwnGroup, help=tr("Charts: what a character should have."), no_args_is_help=True
    )
    command(chart, facts=True)(check)
    command(chart, facts=True)(ready)
    command(chart)(add)
    command(chart)(schema)
    return chart


def check(talk: Talk, library: Folder, chart: Named = "", character: Whose = "") -> None:
    """Say what is missing; ends with 3 if anything is."""
    boards = _boards(talk, library, chart, character)
    facts = [_facts(board, character) for board in boards]
    if talk.json:
        talk.data(facts)
    else:
        for one in facts:
            _say(talk, one)
    if any(whose["missing"] or whose["fewer"] for one in facts for whose in one["characters"]):
        raise typer.Exit(PARTLY)


def _facts(board: ChartBoard, character: str) -> dict[str, Any]:
    found = []
    for whose in board.whose(character):
        slots = board.of(whose)
        found.append(
            {
                "character": whose,
                "filled": sum(not one.missing for one in slots),
                "slots": len(slots),
                "missing": [one.slot.name for one in slots if one.missing],
                "fewer": {
                    one.slot.name: [len(one.cards), one.slot.wanted] for one in slots if one.short
                },
                "lent": [one.slot.name for one in slots if any(f.lent for f in one.cards)],
                "likely": {
                    one.slot.name: [entry.name for entry, _ in one.proposed]
                    for one in slots
                    if one.proposed
                },
            }
        )
    return {"chart": board.chart.name, "file": board.file.path.name, "characters": found}


def _say(talk: Talk, one: dict[str, Any]) -> None:
    for whose in one["characters"]:
        said = tr(
            "{chart}, {character}: {filled} of {slots}",
            chart=one["chart"],
            character=whose["character"],
            filled=whose["filled"],
            slots=whose["slots"],
        )
        parts = []
        if whose["missing"]:
            parts.append(tr("missing {names}", names=", ".join(whose["missing"])))
        for name, (there, wanted) in whose["fewer"].items():
            parts.append(
                tr("{name} has {there} of {wanted}", name=name, there=there, wanted=wanted)
            )
        talk.fact(f"{said}; {'; '.join(parts)}" if parts else said)
    if not one["characters"]:
        talk.fact(tr("{chart}: no character has cards", chart=one["chart"]))


def ready(talk: Talk) -> None:
    """List the charts that come with the program."""
    from fox_hand.library.charts.ready import ready_charts

    facts = [
        {"key": f.key, "name": f.chart.name, "slots": len(f.chart.slots), "source": f.chart.source}
        for f in ready_charts()
    ]
    if talk.json:
        talk.data(facts)
        return
    for one in facts:
        talk.fact(
            tr(
                "{key:<14}{name}, {slots} slots. {source}.",
                key=one["key"],
                name=one["name"],
                slots=one["slots"],
                source=one["source"],
            )
        )


def add(
    talk: Talk,
    library: Folder,
    name: Annotated[str, typer.Argument(help=tr("Of a ready chart, see chart ready."))],
) -> None:
    """Put a chart that comes with the program into a library."""
    from fox_hand.library.charts import chart_moves
    from fox_hand.library.charts.ready import ready_charts
    from fox_hand.library.store.store import Library

    chosen = next((f for f in ready_charts() if name in (f.key, f.chart.name)), None)
    if chosen is None:
        keys = ", ".join(f.key for f in ready_charts())
        talk.problem(
            tr(
                "There is no ready chart {name}. There are {keys}. Nothing was done.",
                name=name,
                keys=keys,
            )
        )
        raise typer.Exit(2)
    made = talk.or_exit(
        lambda: chart_moves.add(Library(library), chosen.chart, chosen.text, chosen.key)
    )
    talk.fact(str(made.path))


def schema(talk: Talk) -> None:
    """Print the JSON Schema of a chart."""
    from fox_hand.library.charts.chart import json_schema

    talk.fact(json_schema().decode().rstrip("\n"))


def chart_sheet(
    talk: Talk, library: Path, out: Path, chart: str, character: str, find: str
) -> None:
    """Write a chart as a contact sheet, a line for each character, with what is missing."""
    from fox_hand.library.store.contact_sheet import write_sheet
    from fox_hand.session.charts.chart_board import MOST_COLUMNS

    if find:
        talk.problem(tr("--find and --chart cannot be used together. Nothing was written."))
        raise typer.Exit(2)
    (board, *_) = _boards(talk, library, chart, character)
    shown, title = board.sheet(character), board.sheet_title(character)
    columns = min(len(board.chart.slots), MOST_COLUMNS) or 1
    with talk.progress() as work:
        talk.or_exit(lambda: write_sheet(out, shown, title, columns=columns, progress=work))
    talk.fact(str(out))


def _boards(talk: Talk, library: Path, chart: str, character: str) -> list[ChartBoard]:
    """The charts that are asked for; a chart or character that is not there ends the command."""
    place, boards = _read(talk, library)
    wanted = chart.casefold()
    chosen = [b for b in boards if wanted in ("", b.chart.name.casefold(), b.file.key.casefold())]
    if chart and not chosen:
        names = ", ".join(b.chart.name for b in boards) or tr("none")
        talk.problem(
            tr(
                "{name} has no chart {chart}. It has {names}.",
                name=place.name,
                chart=chart,
                names=names,
            )
        )
        raise typer.Exit(2)
    if not chosen:
        talk.problem(
            tr("{name} has no charts. fox-hand chart add puts one there.", name=place.name)
        )
        raise typer.Exit(2)
    known = {c.casefold() for b in chosen for c in b.characters}
    if character and character.casefold() not in known:
        talk.problem(
            tr("{name} has no cards of {character}.", name=place.name, character=character)
        )
        raise typer.Exit(2)
    return chosen


def _read(talk: Talk, library: Path) -> tuple[OpenLibrary, tuple[ChartBoard, ...]]:
    from fox_hand.base.work import Progress
    from fox_hand.session.charts.chart_book import read_all, with_likely

    _, place = opened(talk, library)
    found = with_likely(read_all([place], (), Progress()), Progress())
    for error in found.wrong:
        talk.problem(error.sentence())
    return place, found.boards
