"""``fox-hand library``: listing, search, check, reindex and new pictures, without a window."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from fox_hand.cli.ending import or_exit

if TYPE_CHECKING:
    from fox_hand.base.work import Progress
    from fox_hand.library.entry import Entry
    from fox_hand.session.place import Place
    from fox_hand.session.shelf import Shelf

Folder = Annotated[Path, typer.Argument(help="The library's folder.")]
RigOption = Annotated[
    Path | None, typer.Option("--rig", help="A character, for fits: and for what has no rig.")
]


def library_commands() -> typer.Typer:
    library = typer.Typer(help="Work with libraries of cards.", no_args_is_help=True)
    library.command(name="list")(list_cards)
    library.command()(search)
    library.command()(check)
    library.command()(reindex)
    library.command()(reshoot)
    library.command()(pack)
    library.command(name="take-in")(take_in)
    return library


def progress(quiet: bool = False) -> Progress:
    """Lines on standard error, one for each tenth."""
    from fox_hand.base.work import Progress

    said = [-1]

    def report(fraction: float, text: str) -> None:
        tenth = int(fraction * 10)
        if tenth > said[0] and not quiet:
            said[0] = tenth
            typer.echo(f"{fraction * 100:3.0f} %  {text}", err=True)

    return Progress(report)


def opened(folder: Path, *, again: bool = False) -> tuple[Shelf, Place]:
    """The library with all its files looked at."""
    from fox_hand.base.places import Places
    from fox_hand.library.index import Index
    from fox_hand.session.jobs import Jobs
    from fox_hand.session.shelf import Shelf

    places = Places.of_user()
    shelf = Shelf(places, Jobs(lambda run: run(), inline=True))
    place = shelf.add(folder)
    if again:
        index = Index.of(folder.absolute(), places.cache)
        index.rebuild()
        index.close()
    reading = or_exit(lambda: shelf.read(place, progress(), look=True))
    shelf.take(place, reading)
    return shelf, place


def _lines(entries: Iterator[Entry]) -> Iterator[str]:
    for entry in entries:
        if entry.error is not None:
            yield f"{entry.sheet}\t{entry.path.name}\t! {entry.error.happened}"
            continue
        tags = " ".join(f"#{tag}" for tag in entry.tags)
        parts = (
            entry.sheet,
            entry.name,
            entry.region.value,
            entry.side,
            str(entry.count),
            entry.author,
            entry.changed[:10],
            tags,
        )
        yield "\t".join(parts)


def list_cards(folder: Folder) -> None:
    """List all cards: sheet, name, region, side, controls, author, day, tags."""
    shelf, _ = opened(folder)
    for line in _lines(shelf.entries()):
        typer.echo(line)


def search(
    folder: Folder,
    words: Annotated[list[str], typer.Argument(help="Words and filters, as in the window.")],
    rig: RigOption = None,
) -> None:
    """Find cards: words, and region: side: tag: by: fits: kind: sheet: new:."""
    from fox_hand.interchange.readers import read_rig
    from fox_hand.session.request import Request

    shelf, _ = opened(folder)
    worn = or_exit(lambda: read_rig(rig)) if rig is not None else None
    found = shelf.find(Request(" ".join(words)), worn)
    if found.note:
        typer.echo(found.note, err=True)
    for line in _lines(shelf.entries(found)):
        typer.echo(line)
    typer.echo(f"{found.count} found", err=True)
    raise typer.Exit(0 if found.count else 1)


def check(folder: Folder, rig: RigOption = None) -> None:
    """Look through a library: damaged files, conflicts, near twins, cards without a rig. Ends
    with 1 if a file is damaged or somebody must choose."""
    from fox_hand.interchange.readers import read_rig
    from fox_hand.session.care import look_through

    _, place = opened(folder)
    rigs = [or_exit(lambda: read_rig(rig))] if rig is not None else []
    report = look_through(place, rigs, progress())
    for strange in report.strange:
        error = strange.entry.error
        kept = " (a whole earlier version is there)" if strange.version is not None else ""
        typer.echo(f"damaged\t{strange.entry.path}\t{error.happened if error else ''}{kept}")
    for clash in report.clashes:
        card = clash.conflict.card
        typer.echo(f"conflict\t{clash.conflict.path}\t{card.name} by {card.author or 'nobody'}")
    for pair in report.pairs:
        if not pair.kept:
            share = f"{pair.share * 100:.0f} %"
            typer.echo(f"twins\t{pair.first.path}\t{pair.second.path}\t{share}")
    for lost in report.lost:
        for entry in lost.entries:
            typer.echo(f"no rig\t{entry.path}\t{', '.join(lost.missing)}")
    for part in report.leftovers:
        typer.echo(f"leftover\t{part}\tof a write that was cut off")
    for version in report.gone:
        typer.echo(f"orphan\t{version.path}\t{version.entry.name} is in no sheet any more")
    typer.echo(
        f"{report.fine} of {report.total} cards are fine; {len(report.taken_out)} taken out, "
        f"{report.versions} earlier versions kept",
        err=True,
    )
    raise typer.Exit(1 if report.strange or report.clashes else 0)


def reindex(folder: Folder) -> None:
    """Throw the index away and make it anew from the files."""
    _, place = opened(folder, again=True)
    typer.echo(f"{len(place)} cards in {len(place.sheets)} sheets")


def reshoot(
    folder: Folder,
    rig: Annotated[Path, typer.Option("--rig", help="The character that wears the cards.")],
    only: Annotated[
        str, typer.Option("--only", help="Which cards: words and filters, as in the window.")
    ] = "",
    style: Annotated[
        str, typer.Option("--style", help="shaded, clay or outline; as it was without it.")
    ] = "",
    missing: Annotated[
        bool, typer.Option("--missing", help="Only cards without a picture.")
    ] = False,
) -> None:
    """Take the pictures of cards again, each with the frame it was taken with."""
    from fox_hand.cli.reshooting import Reshooter
    from fox_hand.interchange.readers import read_rig
    from fox_hand.session.request import Request

    shelf, place = opened(folder)
    worn = or_exit(lambda: read_rig(rig))
    shooter = or_exit(lambda: Reshooter(worn, style))
    entries = [e for e in shelf.entries(shelf.find(Request(only), worn)) if e.readable]
    entries = [e for e in entries if not (missing and e.has_picture)]
    assert place.library is not None
    work, failed = progress(), 0
    for number, entry in enumerate(entries):
        work.report(number / len(entries), entry.name)
        problem = shooter.take(place.library, entry)
        if problem is not None:
            failed += 1
            typer.echo(f"{entry.path.name}: {problem.sentence()}", err=True)
    typer.echo(f"{len(entries) - failed} pictures taken, {failed} not")
    raise typer.Exit(1 if failed else 0)


def pack(
    folder: Folder,
    out: Annotated[Path, typer.Option("--out", "-o", help="A .foxpack file.")],
    find: Annotated[str, typer.Option("--find", help="Only what a search finds.")] = "",
) -> None:
    """Cards as one file for somebody else."""
    from fox_hand.library.pack import write_pack
    from fox_hand.session.request import Request

    shelf, _ = opened(folder)
    entries = list(shelf.entries(shelf.find(Request(text=find))))
    count = or_exit(lambda: write_pack(out, out.stem, entries, progress=progress()))
    typer.echo(f"{out}\t{count} cards")


def take_in(
    folder: Folder,
    file: Annotated[Path, typer.Argument(help="A .foxpack file.")],
    theirs: Annotated[
        bool, typer.Option("--theirs", help="Where both have a card, theirs counts.")
    ] = False,
    mine: Annotated[
        bool, typer.Option("--mine", help="Where both have a card, mine stays alone.")
    ] = False,
    look: Annotated[bool, typer.Option("--look", help="Only say what is new.")] = False,
) -> None:
    """Cards of a pack into a library; where both have one, both stay unless you say otherwise."""
    from fox_hand.library.pack import News, Take, offers
    from fox_hand.library.pack import take_in as taken
    from fox_hand.session.packing import own_card

    shelf, place = opened(folder)
    assert place.library is not None
    library = place.library
    found = or_exit(lambda: offers(file, lambda identity: own_card(shelf, place, identity)))
    for offer in found:
        what = offer.usual
        if offer.news is News.DIFFERENT and (theirs or mine):
            what = Take.THEIRS if theirs else Take.LEAVE
        typer.echo(f"{offer.news.value}\t{offer.card.sheet}\t{offer.card.name}\t{what.value}")
        if not look and what is not Take.LEAVE:
            own = own_card(shelf, place, offer.card.id)
            or_exit(partial(taken, library, file, offer, own, what))
