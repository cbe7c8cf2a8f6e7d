"""``fox-hand library``: making, listing, search, check and reindex, without a window."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any

import typer

from fox_hand.base.language import tr, tr_n
from fox_hand.cli.cards_found import opened
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.commands.library_work import add_library_work
from fox_hand.cli.options import Folder, RigOption
from fox_hand.cli.talk import Talk, command

if TYPE_CHECKING:
    from fox_hand.library.format.entry import Entry
    from fox_hand.session.libraries.care_report import Report


def library_commands() -> typer.Typer:
    library = typer.Typer(
        cls=OwnGroup, help=tr("Work with libraries of cards."), no_args_is_help=True
    )
    command(library)(new)
    command(library, "list", facts=True)(list_cards)
    command(library, facts=True)(search)
    command(library, facts=True)(check)
    command(library)(reindex)
    add_library_work(library)
    return library


def new(
    talk: Talk,
    folder: Folder,
    name: Annotated[
        str, typer.Option("--name", help=tr("As shown; the folder's without it."))
    ] = "",
) -> None:
    """Make an empty library."""
    from fox_hand.library.store.store import Library

    if (folder / "library.toml").exists():
        talk.problem(tr("{folder} is a library already; it was left as it is.", folder=folder))
        raise typer.Exit(1)
    talk.or_exit(lambda: Library.create(folder, name or folder.absolute().name))
    talk.fact(str(folder))


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


def _facts(entry: Entry) -> dict[str, Any]:
    facts: dict[str, Any] = {"file": str(entry.path), "sheet": entry.sheet}
    if entry.error is not None:
        return {**facts, "error": entry.error.sentence()}
    return {
        **facts,
        "name": entry.name,
        "id": entry.identity,
        "revision": entry.revision,
        "kind": entry.kind,
        "region": entry.region.value,
        "side": entry.side,
        "controls": entry.count,
        "character": entry.character,
        "author": entry.author,
        "changed": entry.changed,
        "tags": list(entry.tags),
        "note": entry.note,
        "approved": entry.locked,
    }


def _listed(talk: Talk, entries: list[Entry]) -> None:
    if talk.json:
        talk.data([_facts(entry) for entry in entries])
        return
    for line in _lines(iter(entries)):
        talk.fact(line)


def list_cards(talk: Talk, folder: Folder) -> None:
    """List all cards: sheet, name, region, side, controls, author, day, tags."""
    open_libraries, _ = opened(talk, folder)
    _listed(talk, list(open_libraries.entries()))


def search(
    talk: Talk,
    folder: Folder,
    words: Annotated[list[str], typer.Argument(help=tr("Words and filters, as in the window."))],
    rig: RigOption = None,
) -> None:
    """Find cards: words, and region: side: tag: by: fits: kind: sheet: new:. Ends with 1 if there
    are none."""
    from fox_hand.interchange.readers import read_rig
    from fox_hand.library.index.query import parse, unknown_filters
    from fox_hand.session.libraries.request import Request

    text = " ".join(words)
    problems = list(unknown_filters(text))
    if parse(text).fits and rig is None:
        problems.append(tr("fits: needs a character, --rig FILE."))
    if problems:
        talk.problem(" ".join(problems))
        raise typer.Exit(2)
    open_libraries, _ = opened(talk, folder)
    worn = talk.or_exit(lambda: read_rig(rig)) if rig is not None else None
    found = open_libraries.find(Request(text), worn)
    if found.note:
        talk.note(found.note)
    _listed(talk, list(open_libraries.entries(found)))
    talk.note(tr("{count} found", count=found.count))
    raise typer.Exit(0 if found.count else 1)


def check(talk: Talk, folder: Folder, rig: RigOption = None) -> None:
    """Look through a library: damaged files, folders that cannot be listed, rights, conflicts,
    near twins, cards without a rig. Ends with 1 if something is damaged or must be mended."""
    from fox_hand.interchange.readers import read_rig
    from fox_hand.session.libraries.care_report import look_through

    _, place = opened(talk, folder)
    rigs = [talk.or_exit(lambda: read_rig(rig))] if rig is not None else []
    with talk.progress() as work:
        report = look_through(place, rigs, work)
    found = list(_findings(report))
    if talk.json:
        talk.data(
            {
                "cards": report.total,
                "fine": report.fine,
                "taken_out": len(report.taken_out),
                "versions": report.versions,
                "findings": [dict(zip(("what", "file", "detail"), f, strict=True)) for f in found],
            }
        )
    else:
        for line in found:
            talk.fact("\t".join(line))
        talk.note(
            tr(
                "{fine} of {total} cards are fine; {count} taken out, {versions} "
                "earlier versions kept",
                fine=report.fine,
                total=report.total,
                count=len(report.taken_out),
                versions=report.versions,
            )
        )
    raise typer.Exit(1 if report.troubles or report.strange or report.clashes else 0)


def _findings(report: Report) -> Iterator[tuple[str, str, str]]:
    for trouble in report.troubles:
        mend = tr(" This mends it: {mend}", mend=trouble.mend) if trouble.mend else ""
        yield "folder", str(trouble.path), f"{trouble.what}{mend}"
    for strange in report.strange:
        error = strange.entry.error
        kept = tr(" (a whole earlier version is there)") if strange.version is not None else ""
        yield "damaged", str(strange.entry.path), f"{error.happened if error else ''}{kept}"
    for clash in report.clashes:
        card = clash.conflict.card
        yield (
            "conflict",
            str(clash.conflict.path),
            tr("{name} by {author}", name=card.name, author=card.author or tr("nobody")),
        )
    for pair in report.pairs:
        if not pair.kept:
            yield "twins", str(pair.first.path), f"{pair.second.path}\t{pair.share * 100:.0f} %"
    for lost in report.lost:
        for entry in lost.entries:
            yield tr("no rig"), str(entry.path), ", ".join(lost.missing)
    for part in report.leftovers:
        yield "leftover", str(part), tr("of a write that was cut off")
    for version in report.gone:
        yield (
            "orphan",
            str(version.path),
            tr("{name} is in no sheet any more", name=version.entry.name),
        )


def reindex(talk: Talk, folder: Folder) -> None:
    """Throw the index away and make it anew from the files."""
    _, place = opened(talk, folder, again=True)
    talk.fact(
        tr(
            "{cards} in {sheets}",
            cards=tr_n("{number} card", "{number} cards", len(place)),
            sheets=tr_n("{number} sheet", "{number} sheets", len(place.sheets)),
        )
    )
