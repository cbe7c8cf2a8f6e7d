"""From drawings to the files of a flat puppet."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import read_file
from fox_hand.base.files.outputs import keep_inputs
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.puppet.guessing import guessed
from fox_hand.core.puppet.puppet import Puppet
from fox_hand.interchange.drawings.reading import read_drawings
from fox_hand.interchange.puppets.puppet_draft import (
    LARGEST,
    draft_bytes,
    draft_path,
    notes_of,
    read_draft,
    with_notes,
)
from fox_hand.interchange.puppets.puppet_file import HEIGHT, puppet_files
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.library.files.atomic import write_atomically
from fox_hand.session.puppets.brought_drawings import brought_to, with_brought

KINDS = (".glb",)
MOST_FILES = 10_000  # of drawings that are looked at


@dataclass(frozen=True)
class MadePuppet:
    """What was written.

    Args:
        glb, sidecar: the files.
        notes: sentences about drawings of cards that could not stay.
    """

    glb: Path
    sidecar: Path
    notes: tuple[str, ...] = ()


def puppet_of(source: Path, name: str = "", progress: Progress | None = None) -> Puppet:
    """A puppet as far as the names and places of drawings say.

    Args:
        source: a folder of drawings or a layered file.
        name: of the character; empty takes the folder's or file's.
        progress: of long work.

    Raises:
        FoxHandError: if the drawings cannot be read.
        Cancelled: by the progress.
    """
    source = source.absolute()  # "." has no name
    drawn = read_drawings(source, progress)
    found = guessed(replace(drawn, name=spoken(drawn.name)), progress)
    draft = draft_path(source)
    if draft.is_file():
        found, problems = with_notes(found, read_draft(draft))
        found = replace(found, notes=(*found.notes, *problems))
    return replace(found, name=name) if name else found


def said_again(puppet: Puppet, source: Path, progress: Progress | None = None) -> Puppet:
    """Drawings as they are now, with everything that was said of a puppet made of them.

    Args:
        puppet: what was said.
        source: the folder or file of drawings.
        progress: of long work.

    Raises:
        FoxHandError: if the drawings cannot be read.
        Cancelled: by the progress.
    """
    drawn = read_drawings(source.absolute(), progress)
    found = guessed(replace(drawn, name=spoken(drawn.name)), progress)
    found, problems = with_notes(found, notes_of(puppet))
    return replace(found, notes=(*found.notes, *problems))


def drawings_mark(source: Path) -> tuple[tuple[str, int, int], ...]:
    """What changes when drawings are drawn anew, come or go: names, times and sizes."""
    files = sorted(source.rglob("*")) if source.is_dir() else [source]
    found = []
    for file in files[:MOST_FILES]:
        try:
            stat = file.stat()
        except OSError:
            continue
        if file.is_file():
            found.append((str(file), stat.st_mtime_ns, stat.st_size))
    return tuple(found)


def height_of(source: Path, said: float | None) -> float:
    """How high the canvas is, metres: as said now, else as the draft says.

    Raises:
        FoxHandError: if the draft cannot be read.
    """
    draft = draft_path(source)
    if said is None and draft.is_file():
        said = read_draft(draft).height
    return HEIGHT if said is None else said


def write_draft(puppet: Puppet, source: Path, height: float | None = None) -> Path:
    """Write down everything that is so now, to be corrected by hand; an earlier draft is kept
    beside it with the ending ``.bak``.

    Returns:
        the draft's file.

    Raises:
        FoxHandError: if it cannot be written; what was there is untouched.
    """
    path = draft_path(source)
    if path.is_file():
        write_atomically(path.with_name(f"{path.name}.bak"), read_file(path, LARGEST))
    write_atomically(path, draft_bytes(notes_of(puppet, height)))
    return path


def spoken(stem: str) -> str:
    """A file's name as a character's."""
    words = stem.replace("_", " ").replace("-", " ").split()
    return " ".join(w[:1].upper() + w[1:] for w in words) or tr("Puppet")


def write_puppet(
    puppet: Puppet,
    out: Path,
    source: Path | None = None,
    height: float = HEIGHT,
    progress: Progress | None = None,
) -> MadePuppet:
    """Write a puppet's model file and its sidecar, each whole or not at all. Drawings that cards
    brought to the one that was there stay.

    Args:
        puppet: what is written.
        out: the GLB file.
        source: what it was made from, which is never written over.
        height: of the canvas, metres.
        progress: of long work.

    Raises:
        FoxHandError: for another kind of file, for the drawings' own file, or where it cannot be
            written; what was there is untouched.
        Cancelled: by the progress.
    """
    if out.suffix.lower() not in KINDS:
        raise FoxHandError(
            "puppet.kind",
            tr("A puppet cannot be written as {name}.", name=out.name),
            tr("Nothing was written."),
            tr("Puppets are written as .glb."),
        )
    if source is not None:
        keep_inputs(out, [source])
    glb, sidecar = puppet_files(puppet, height, progress)
    glb, sidecar, notes = with_brought(glb, sidecar, brought_to(out))
    write_atomically(sidecar_path(out), sidecar)
    write_atomically(out, glb)
    return MadePuppet(out, sidecar_path(out), notes)
