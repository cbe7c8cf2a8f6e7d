"""``fox-hand library``: what is done to many cards at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from fox_hand.base.language import tr, tr_n
from fox_hand.cli.cards_found import found, named, opened
from fox_hand.cli.options import Find, Folder
from fox_hand.cli.talk import Talk, command

if TYPE_CHECKING:
    from fox_hand.base.errors import FoxHandError
    from fox_hand.library.format.card import Card
    from fox_hand.library.format.entry import Entry
    from fox_hand.library.store.store import Library

Cards = Annotated[
    list[Path] | None, typer.Argument(help=tr("Files of cards; - reads their names, one a line."))
]
Every = Annotated[bool, typer.Option("--all", help=tr("All cards of the library."))]


def add_library_work(library: typer.Typer) -> None:
    command(library)(tag)
    command(library)(approve)
    command(library)(move)
    command(library)(reshoot)
    command(library)(pack)
    command(library, "take-in")(take_in)


def tag(
    talk: Talk,
    folder: Folder,
    cards: Cards = None,
    find: Find = "",
    every: Every = False,
    add: Annotated[list[str] | None, typer.Option("--add", help=tr("A tag more."))] = None,
    remove: Annotated[list[str] | None, typer.Option("--remove", help=tr("A tag less."))] = None,
) -> None:
    """Give cards tags, and take tags away."""
    added = tuple(t.strip().lstrip("#") for t in add or ())
    gone = {t.strip().lstrip("#") for t in remove or ()}
    if (not added and not gone) or not all((*added, *gone)):
        raise typer.BadParameter(tr("say which: --add TAG, --remove TAG"))

    def change(card: Card) -> Card:
        kept = (t for t in (*card.tags, *added) if t not in gone)
        return replace(card, tags=tuple(dict.fromkeys(kept)))

    def wanted(entry: Entry) -> bool:
        return bool(set(entry.tags) & gone) or not set(added) <= set(entry.tags)

    _reword(talk, folder, cards or [], find, change, wanted, tr("tagged"), every=every)


def approve(
    talk: Talk,
    folder: Folder,
    cards: Cards = None,
    find: Find = "",
    every: Every = False,
    who: Annotated[str, typer.Option("--by", help=tr("Who says so."))] = "",
    unlock: Annotated[bool, typer.Option("--unlock", help=tr("Take the approval away."))] = False,
) -> None:
    """Lock cards as approved, so that nobody stores over them by mistake."""
    from fox_hand.library.store.store import now

    if not unlock and not who.strip():
        raise typer.BadParameter(tr("say who approves: --by NAME"))
    by, when = ("", "") if unlock else (who.strip(), now())

    def change(card: Card) -> Card:
        return replace(card, approved_by=by, approved_at=when)

    word = tr("unlocked") if unlock else tr("approved")

    def wanted(entry: Entry) -> bool:
        return entry.locked == unlock

    _reword(talk, folder, cards or [], find, change, wanted, word, every=every, who=who.strip())


def _reword(
    talk: Talk,
    folder: Path,
    cards: list[Path],
    find: str,
    change: Callable[[Card], Card],
    wanted: Callable[[Entry], bool],
    word: str,
    *,
    every: bool,
    who: str = "",
) -> None:
    from fox_hand.library.store import moves
    from fox_hand.library.store.store import Library as Signing

    def one(library: Library, entry: Entry) -> None:
        signing = Signing(library.folder, library.file, lambda: who) if who else library
        moves.reword(signing, entry, change, even_locked=word == "unlocked")

    _each(talk, folder, cards, find, one, wanted, word, every=every)


def _each(
    talk: Talk,
    folder: Path,
    cards: list[Path],
    find: str,
    one: Callable[[Library, Entry], None],
    wanted: Callable[[Entry], bool],
    word: str,
    *,
    every: bool,
) -> None:
    """Do something to cards one by one; what does not work is said, and the others go on."""
    from fox_hand.base.errors import FoxHandError

    open_libraries, place = opened(talk, folder)
    assert place.library is not None
    entries = [e for e in named(talk, open_libraries, cards, find, every) if wanted(e)]
    failed = 0
    with talk.progress() as work:
        for number, entry in enumerate(entries):
            work.report(number / len(entries), entry.name)
            try:
                one(place.library, entry)
            except FoxHandError as error:
                failed += 1
                talk.problem(f"{entry.path.name}: {error.sentence()}")
    talk.fact(
        tr_n("{number} card {word}", "{number} cards {word}", len(entries) - failed, word=word)
        + (tr(", {failed} not", failed=failed) if failed else "")
    )
    raise typer.Exit(1 if failed else 0)


def move(
    talk: Talk,
    folder: Folder,
    cards: Cards = None,
    to: Annotated[str, typer.Option("--to", help=tr("The sheet, as in Marrow/Hands."))] = "",
    find: Find = "",
    every: Every = False,
) -> None:
    """Move cards into a sheet, which is made if it is not there."""
    from fox_hand.library.store import moves
    from fox_hand.library.store.sheets import sheet_path

    sheet = sheet_path(*(part for part in to.split("/") if part.strip()))
    if not sheet:
        raise typer.BadParameter(tr("say where: --to SHEET"))

    def one(library: Library, entry: Entry) -> None:
        moves.move(library, entry.path, sheet)

    _each(
        talk,
        folder,
        cards or [],
        find,
        one,
        lambda entry: entry.sheet != sheet,
        tr("moved to {sheet}", sheet=sheet),
        every=every,
    )


def reshoot(
    talk: Talk,
    folder: Folder,
    rig: Annotated[Path, typer.Option("--rig", help=tr("The character that wears the cards."))],
    find: Find = "",
    style: Annotated[
        str, typer.Option("--style", help=tr("shaded, clay or outline; as it was without it."))
    ] = "",
    missing: Annotated[
        bool, typer.Option("--missing", help=tr("Only cards without a picture."))
    ] = False,
) -> None:
    """Take the pictures of cards again, each with the frame it was taken with."""
    from fox_hand.cli.reshooter import Reshooter, renderers
    from fox_hand.interchange.readers import read_rig

    failed, done = 0, 0
    with renderers() as drawing:  # they get ready while everything is read
        worn = talk.or_exit(lambda: read_rig(rig))
        open_libraries, place = opened(talk, folder)
        library = place.library
        assert library is not None
        asked = found(talk, open_libraries, find, worn)
        entries = [e for e in asked if not (missing and e.has_picture)]
        shooter = talk.or_exit(lambda: Reshooter(worn, drawing, style))
        with talk.progress() as work:

            def took(entry: Entry, problem: FoxHandError | None) -> None:
                nonlocal failed, done
                done += 1
                work.report(done / len(entries), entry.name)
                if problem is not None:
                    failed += 1
                    talk.problem(f"{entry.path.name}: {problem.sentence()}")

            shooter.take(library, entries, took)
    talk.fact(
        tr_n(
            "{number} picture taken, {failed} not",
            "{number} pictures taken, {failed} not",
            len(entries) - failed,
            failed=failed,
        )
    )
    raise typer.Exit(1 if failed else 0)


def pack(
    talk: Talk,
    folder: Folder,
    out: Annotated[Path, typer.Option("--out", "-o", help=tr("A .foxpack file."))],
    find: Find = "",
    maps: Annotated[
        bool, typer.Option("--maps", help=tr("With what was said about the names of rigs."))
    ] = False,
    rig: Annotated[
        list[Path] | None,
        typer.Option("--rig", help=tr("A character whose description goes in; once for each.")),
    ] = None,
) -> None:
    """Cards as one file for somebody else, with what their sheets say."""
    from fox_hand.library.store.pack import write_pack
    from fox_hand.library.store.pack_extras import Extras

    open_libraries, _ = opened(talk, folder)
    entries = found(talk, open_libraries, find)
    with talk.progress() as work:
        extras = Extras(maps, Extras.of_rigs(tuple(rig or ())).sidecars)
        count = talk.or_exit(
            lambda: write_pack(out, out.stem, entries, extras=extras, progress=work)
        )
    talk.fact(tr_n("{out}\t{number} card", "{out}\t{number} cards", count, out=out))


def take_in(
    talk: Talk,
    folder: Folder,
    file: Annotated[Path, typer.Argument(help=tr("A .foxpack file."))],
    theirs: Annotated[
        bool, typer.Option("--theirs", help=tr("Where both have a card, theirs counts."))
    ] = False,
    mine: Annotated[
        bool, typer.Option("--mine", help=tr("Where both have a card, mine stays alone."))
    ] = False,
    look: Annotated[bool, typer.Option("--look", help=tr("Only say what is new."))] = False,
) -> None:
    """Cards of a pack into a library; where both have one, both stay unless you say otherwise."""
    from fox_hand.library.store.pack import News, TakeIn, offers, take_in_extras
    from fox_hand.library.store.pack import take_in as taken
    from fox_hand.session.libraries.packing import own_card

    if theirs and mine:
        raise typer.BadParameter(tr("either --theirs or --mine"))
    open_libraries, place = opened(talk, folder)
    assert place.library is not None
    library = place.library
    for offer in talk.or_exit(
        lambda: offers(file, lambda identity: own_card(open_libraries, place, identity))
    ):
        what = offer.usual
        if offer.news is News.DIFFERENT and (theirs or mine):
            what = TakeIn.THEIRS if theirs else TakeIn.LEAVE
        talk.fact(f"{offer.news.value}\t{offer.card.sheet}\t{offer.card.name}\t{what.value}")
        if offer.reworded:
            talk.problem(
                tr("{name}: its name or sheet could not be used as written.", name=offer.card.name)
            )
        if not look and what is not TakeIn.LEAVE:
            own = own_card(open_libraries, place, offer.card.id)
            talk.or_exit(partial(taken, library, file, offer, own, what))
    if not look:
        talk.or_exit(partial(take_in_extras, library, file))
