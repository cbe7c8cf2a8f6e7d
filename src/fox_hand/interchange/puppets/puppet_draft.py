"""``<drawings>.foxpuppet.json``: what a person has said about drawings that become a puppet.

It lies beside the folder or file of drawings, so drawing something anew keeps pivots and names.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import Number, Positive, decode_json, wrong_with
from fox_hand.base.files.inputs import read_file
from fox_hand.base.files.published import published
from fox_hand.base.files.versions import upgrade
from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.naming.roles import ALL_ROLES
from fox_hand.core.puppet.puppet import Aside, Guess, GuessKind, Puppet, PuppetPart

FORMAT = "fox-hand puppet draft"
VERSION = 1
LARGEST = 64 << 20
KEPT = tr("The drawings are untouched.")


class PartNotes(msgspec.Struct, omit_defaults=True):
    """What is said about one part; what is left out is guessed.

    ``pivot`` is canvas pixels, y downwards, ``moved`` how far its drawings were moved; ``limits``
    are degrees, counterclockwise. An empty ``hangs_on`` makes it the body, an empty ``partner``
    leaves it alone, an empty ``lower`` makes no limb. ``role`` is a VRM 1.0 humanoid bone name,
    empty for none. ``shown`` is the name of the drawing that is seen at rest, ``called`` what the
    part is called where people see it. ``guessed`` names what nobody has looked at yet.
    """

    name: str
    view: str = ""
    hangs_on: str | None = None
    pivot: tuple[Number, Number] | None = None
    side: Side | None = None
    region: Region | None = None
    partner: str | None = None
    limits: tuple[Number, Number] | None = None
    free: bool | None = None
    lower: str | None = None
    shown: str | None = None
    moved: tuple[Number, Number] = (0.0, 0.0)
    guessed: list[GuessKind] = []
    called: str = ""
    role: str | None = None


class AsideNotes(msgspec.Struct, omit_defaults=True):
    """A drawing that the part it was drawn for does not have: nobody has it, or the part ``into``
    of the same view."""

    part: str
    drawing: str
    view: str = ""
    into: str = ""


class PuppetNotes(msgspec.Struct, omit_defaults=True):
    """The file. Parts are listed in front first, which is the order they are drawn in; those that
    are not listed keep their place among their neighbours."""

    format: str
    version: int
    name: str | None = None
    height: Positive | None = None
    parts: list[PartNotes] = []
    aside: list[AsideNotes] = []


def draft_path(drawings: Path) -> Path:
    """Where the draft of a folder or file of drawings lies."""
    drawings = drawings.absolute()  # "." has no name
    stem = drawings.name if drawings.is_dir() else drawings.stem
    return drawings.with_name(f"{stem}.foxpuppet.json")


def read_draft(path: Path) -> PuppetNotes:
    """Read and check a draft.

    Raises:
        FoxHandError: with what is wrong and where.
    """
    try:
        raw: Any = decode_json(read_file(path, LARGEST), object)
        if not isinstance(raw, dict) or raw.get("format") != FORMAT:
            raise FoxHandError(
                "puppet.foreign", tr("{name} is no draft of a puppet.", name=path.name), KEPT
            )
        document = upgrade(raw, current=VERSION, steps={}, what=tr("puppet draft"))
        return msgspec.convert(document, PuppetNotes)
    except (OSError, ValueError) as error:
        raise FoxHandError(
            "puppet.damaged",
            tr(
                "{name} cannot be read: {wrong_with}.", name=path.name, wrong_with=wrong_with(error)
            ),
            KEPT,
            tr("Mend it, or take it away to begin with what is guessed."),
        ) from error


def draft_bytes(notes: PuppetNotes) -> bytes:
    """The file's bytes."""
    return msgspec.json.format(msgspec.json.encode(notes), indent=1) + b"\n"


def draft_schema() -> bytes:
    """The published JSON Schema of a draft."""
    return published(PuppetNotes, f"Fox Hand puppet draft, version {VERSION}")


def notes_of(puppet: Puppet, height: float | None = None) -> PuppetNotes:
    """Everything that is so now, said."""
    open_ = {(g.view, g.part, g.kind) for g in puppet.guesses}
    parts = []
    for part in puppet.parts:
        guessed = [kind for kind in GuessKind if (part.view, part.name, kind) in open_]
        parts.append(_notes(part, guessed))
    aside = [AsideNotes(a.part, _drawn_as(a), a.view, a.into) for a in puppet.aside]
    return PuppetNotes(FORMAT, VERSION, puppet.name, height, parts, aside)


def _drawn_as(aside: Aside) -> str:
    """By what a drawing is found again: where it came from, as its name may have changed."""
    return aside.drawing.source or aside.drawing.name


def _notes(part: PuppetPart, guessed: list[GuessKind]) -> PartNotes:
    limits = None
    if part.limits is not None:
        low, high = (round(float(np.degrees(angle)), 4) for angle in part.limits)
        limits = low, high
    x, y = part.pivot
    return PartNotes(
        part.name,
        part.view,
        part.above or "",
        (round(x, 2), round(y, 2)),
        part.side,
        part.region,
        part.partner or "",
        limits,
        part.free,
        part.lower or "",
        part.seen.name if len(part.drawings) > 1 else None,
        part.moved,
        guessed,
        part.label,
        part.role,
    )


def with_notes(puppet: Puppet, notes: PuppetNotes) -> tuple[Puppet, tuple[str, ...]]:
    """A puppet with what was said laid over what was guessed.

    Returns:
        the puppet, and sentences about what could not be followed: parts that are not there, and
        what would hang on itself.
    """
    problems: list[str] = []
    notes = _in_views(notes, puppet.views)
    puppet = _with_aside(puppet, notes.aside)
    said = {(note.view, note.name): note for note in notes.parts}
    known = {(part.view, part.name) for part in puppet.parts}
    for view, name in said.keys() - known:
        where = tr(" in {view}", view=view) if view else ""
        problems.append(
            tr("The draft speaks of {name}{where}, which is not drawn.", name=name, where=where)
        )
    problems += [
        tr(
            "The draft says that {name} is a {role}, which is no role.",
            name=note.name,
            role=note.role,
        )
        for note in notes.parts
        if note.role not in (None, "", *ALL_ROLES)
    ]
    parts = [_with(part, said.get((part.view, part.name)), known) for part in puppet.parts]
    found = replace(
        puppet,
        name=notes.name or puppet.name,
        parts=tuple(_ordered(parts, list(said))),
        guesses=tuple(g for g in puppet.guesses if not _answered(g, said)),
    )
    checked = _hung(found, puppet, problems)
    return checked, tuple(sorted(problems))


def _in_views(notes: PuppetNotes, views: tuple[str, ...]) -> PuppetNotes:
    """What was said before there were views is of the side's as soon as there are some."""
    if "" in views or "Side" not in views:
        return notes
    parts = [msgspec.structs.replace(n, view=n.view or "Side") for n in notes.parts]
    aside = [msgspec.structs.replace(n, view=n.view or "Side") for n in notes.aside]
    return msgspec.structs.replace(notes, parts=parts, aside=aside)


def _with_aside(puppet: Puppet, notes: list[AsideNotes]) -> Puppet:
    """With drawings put aside, and into other parts, as far as they are there."""
    known = {(part.view, part.name) for part in puppet.parts}
    for note in notes:
        if (note.view, note.part) not in known:
            continue
        part = puppet.part(note.part, note.view)
        names = [d.source or d.name for d in part.drawings]
        if note.drawing not in names:
            continue
        before = puppet
        puppet = puppet.without_drawing(note.view, note.part, names.index(note.drawing))
        if puppet is not before and (note.view, note.into) in known:
            puppet = puppet.with_drawing(puppet.aside[-1], note.into)
    return puppet


def _with(part: PuppetPart, note: PartNotes | None, known: set[tuple[str, str]]) -> PuppetPart:
    if note is None:
        return part

    def there(name: str | None, now: str | None) -> str | None:
        if name is None or (name and (part.view, name) not in known) or name == part.name:
            return now
        return name or None

    names = [drawing.name for drawing in part.drawings]
    limits = part.limits
    if note.limits is not None:
        low, high = sorted(note.limits)
        limits = float(np.radians(low)), float(np.radians(high))
    part = part.shifted(note.moved[0] - part.moved[0], note.moved[1] - part.moved[1])
    return replace(
        part,
        above=there(note.hangs_on, part.above),
        pivot=note.pivot or part.pivot,
        side=note.side or part.side,
        region=note.region or part.region,
        partner=there(note.partner, part.partner),
        limits=limits,
        free=part.free if note.free is None else note.free,
        lower=there(note.lower, part.lower),
        shown=names.index(note.shown) if note.shown in names else part.shown,
        label=note.called,
        role=note.role if note.role in ("", *ALL_ROLES) else part.role,
    )


def _ordered(parts: list[PuppetPart], said: list[tuple[str, str]]) -> list[PuppetPart]:
    """Parts that are listed take the places of listed ones, in the order of the list."""
    rank = {key: number for number, key in enumerate(said)}
    places = [n for n, part in enumerate(parts) if (part.view, part.name) in rank]
    listed = sorted((parts[n] for n in places), key=lambda part: rank[part.view, part.name])
    found = list(parts)
    for place, part in zip(places, listed, strict=True):
        found[place] = part
    views = list(dict.fromkeys(part.view for part in parts))
    return sorted(found, key=lambda part: views.index(part.view))


def _answered(guess: Guess, said: dict[tuple[str, str], PartNotes]) -> bool:
    note = said.get((guess.view, guess.part))
    if note is None or guess.kind in note.guessed:
        return False
    told = {
        GuessKind.HANGS: note.hangs_on,
        GuessKind.PIVOT: note.pivot,
        GuessKind.PARTNER: note.partner,
    }
    return told[guess.kind] is not None


def _hung(found: Puppet, before: Puppet, problems: list[str]) -> Puppet:
    """With one body in every view and nothing that hangs on itself."""
    for view in found.views:
        root = before.root(view)
        bodies = [part for part in found.of_view(view) if part.above is None]
        # another one counts before the one that was guessed
        root = next((part for part in bodies if part.name != root.name), root)
        for part in found.of_view(view):
            if part.name == root.name:
                found = found.with_part(replace(found.part(part.name, view), above=None))
            elif part.above is None:
                found = found.with_part(replace(part, above=root.name))
        for part in found.of_view(view):
            if found.circle(part.name, view):
                problems.append(
                    tr(
                        "{name} would hang on itself, so it hangs on {name_2}.",
                        name=part.name,
                        name_2=root.name,
                    )
                )
                found = found.with_part(replace(part, above=root.name))
    return found
