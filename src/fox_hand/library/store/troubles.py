"""What is wrong with a library's folders, beside its cards: what cannot be listed or followed, and
rights that keep colleagues out."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from fox_hand.base.language import tr
from fox_hand.base.words import plain_name
from fox_hand.library.files.access import contradiction
from fox_hand.library.index.scan import walk
from fox_hand.library.store.store import Library


@dataclass(frozen=True)
class Trouble:
    """Something that somebody must look at.

    Args:
        path: where.
        what: one sentence.
        mend: a command that mends it; empty where there is none.
    """

    path: Path
    what: str
    mend: str = ""


def troubles(library: Library) -> tuple[Trouble, ...]:
    """All of them, in a job: every folder is listed."""
    found = []
    for folder in walk(library.folder):
        path = library.folder / folder.sheet
        if folder.refused:
            what = tr(
                "The sheet {shown} cannot be listed ({refused}).",
                shown=shown(folder.sheet),
                refused=folder.refused,
            )
            found.append(Trouble(path, what))
        for link in folder.links:
            what = tr(
                "{shown} is a link to a folder. It is not followed: its cards are hidden.",
                shown=shown(link),
            )
            found.append(Trouble(library.folder / link, what))
    rights = contradiction(library.folder)
    if rights is not None:
        where = shown(rights.path.relative_to(library.folder).as_posix())
        more = tr(" and {count} more", count=rights.count - 1) if rights.count > 1 else ""
        what = tr(
            "Colleagues are kept out of {where}{more}: {why}.",
            where=where,
            more=more,
            why=rights.why,
        )
        found.append(Trouble(rights.path, what, rights.mend))
    return tuple(found)


def shown(path: str) -> str:
    """A path below the library for people."""
    return "/".join(plain_name(part) or "?" for part in path.split("/"))
