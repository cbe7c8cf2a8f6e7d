"""Opening a library without a window, and the cards in it that a command is about."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from fox_hand.base.language import tr
from fox_hand.cli.options import STDIO
from fox_hand.cli.talk import Talk

if TYPE_CHECKING:
    from fox_hand.core.rig.rig import Rig
    from fox_hand.library.format.entry import Entry
    from fox_hand.session.libraries.open_libraries import OpenLibraries
    from fox_hand.session.libraries.open_library import OpenLibrary


def opened(talk: Talk, folder: Path, *, again: bool = False) -> tuple[OpenLibraries, OpenLibrary]:
    """The library with all its files looked at."""
    from fox_hand.base.places import Places
    from fox_hand.library.index.index import Index
    from fox_hand.session.libraries.open_libraries import OpenLibraries
    from fox_hand.session.runtime.jobs import Jobs

    places = Places.of_user()
    open_libraries = OpenLibraries(places, Jobs(lambda run: run(), inline=True))
    place = open_libraries.add(folder)
    if again:
        index = Index.of(folder.absolute(), places.cache)
        index.throw_away()
        index.close()
    with talk.progress() as work:
        reading = talk.or_exit(lambda: open_libraries.read(place, work, look=True))
    open_libraries.take(place, reading)
    return open_libraries, place


def found(
    talk: Talk, open_libraries: OpenLibraries, find: str, rig: Rig | None = None
) -> list[Entry]:
    """The cards a search finds, exactly: where a filter or a word is not understood nothing is
    done, because something would be done to other cards than were meant."""
    from fox_hand.library.index.query import parse, unknown_filters
    from fox_hand.session.libraries.request import Request

    problems = list(unknown_filters(find))
    if parse(find).fits and rig is None:
        problems.append(tr("fits: needs a character, --rig FILE."))
    if problems:
        talk.problem(" ".join([*problems, tr("Nothing was done.")]))
        raise typer.Exit(2)
    result = open_libraries.find(Request(find), rig)
    if result.note:  # the nearest words were looked for instead
        talk.problem(tr("{note} Nothing was done.", note=result.note))
        raise typer.Exit(2)
    return [entry for entry in open_libraries.entries(result) if entry.readable]


def named(
    talk: Talk, open_libraries: OpenLibraries, cards: list[Path], find: str, every: bool
) -> list[Entry]:
    """Cards by their files (``-`` reads names from standard input), by a search, or all."""
    if (bool(cards), bool(find), every).count(True) != 1:
        talk.problem(tr("Say which cards: their files, --find WORDS, or --all. Nothing was done."))
        raise typer.Exit(2)
    if not cards:
        return found(talk, open_libraries, find)
    if cards == [STDIO]:
        cards = [Path(line.rstrip("\n")) for line in sys.stdin if line.strip()]
    entries = []
    for path in cards:
        entry = open_libraries.entry_at(path.absolute())
        if entry is None or not entry.readable:
            talk.problem(tr("{path} is no card of this library. Nothing was done.", path=path))
            raise typer.Exit(1)
        entries.append(entry)
    return entries
