"""``fox-hand desktop`` and ``fox-hand thumbnail``: what file managers and menus need."""

from __future__ import annotations

import io
import os
import sys
from pathlib import Path
from typing import Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.talk import Talk, command

NAME = "fox-hand"
SITE = "FOX_HAND_SITE"  # said where packages are built
Share = Annotated[
    Path | None, typer.Option("--share", help=tr("Another data folder, for packages of a system."))
]
Program = Annotated[
    str | None, typer.Option("--program", help=tr("How the desktop is to call the program."))
]


def desktop_commands() -> typer.Typer:
    """Install and remove."""
    desktop = typer.Typer(
        cls=OwnGroup, help=tr("Menu entry, icons, kinds of files, small pictures.")
    )
    command(desktop)(install)
    command(desktop)(remove)
    return desktop


def install(talk: Talk, share: Share = None, program: Program = None) -> None:
    """Tell the desktop of this user about Fox Hand and its files."""
    from fox_hand.base.places import Places
    from fox_hand.base.system import desktop_install
    from fox_hand.base.system.desktop_files import files_for

    files = files_for(program or own_program(), os.environ.get(SITE, ""))
    state = Places.of_user().state if share is None else share.parent / "fox-hand"
    done = talk.or_exit(lambda: desktop_install.install(share or own_share(), state, files))
    if talk.json:
        talk.data({"written": list(done.written), "left": list(done.left)})
        return
    talk.fact(
        tr("{count} files are in {share}.", count=len(done.written), share=share or own_share())
    )
    for path in done.left:
        talk.note(tr("{path} is not ours and was left as it is.", path=path))


def remove(talk: Talk) -> None:
    """Take away what install wrote."""
    from fox_hand.base.places import Places
    from fox_hand.base.system import desktop_install

    done = talk.or_exit(lambda: desktop_install.remove(own_share(), Places.of_user().state))
    if talk.json:
        talk.data({"removed": list(done.removed), "left": list(done.left)})
        return
    talk.fact(tr("{count} files were removed.", count=len(done.removed)))
    for path in done.left:
        talk.note(tr("{path} was changed by somebody since and was left as it is.", path=path))


def thumbnail(
    talk: Talk,
    file: Annotated[Path, typer.Argument(help=tr("A card or a pack."))],
    picture: Annotated[Path, typer.Argument(help=tr("The picture to write, PNG."))],
    size: Annotated[int, typer.Option("--size", min=16, max=1024, help=tr("Pixels."))] = 256,
) -> None:
    """The small picture that file managers show of a card or a pack."""
    from PIL import Image

    from fox_hand.base.files.pictures import opened_picture
    from fox_hand.cli.file_thumbnail import picture_in
    from fox_hand.library.files.atomic import write_atomically

    def work() -> None:
        data = picture_in(file.absolute(), size)
        with opened_picture(data) as found:
            small = found.convert("RGBA")
            small.thumbnail((size, size), Image.Resampling.LANCZOS)
            buffer = io.BytesIO()
            small.save(buffer, "PNG")
        write_atomically(picture.absolute(), buffer.getvalue())

    talk.or_exit(work)


def own_share() -> Path:
    """The data folder of this user."""
    from fox_hand.base.places import Places

    return Places.of_user().data.parent


def own_program() -> str:
    """How this very program was called: the starter of a clone, or the command that was
    installed; with its whole path, as a desktop has other paths than a shell."""
    script = Path(sys.argv[0]).absolute()
    if script.name == "start.py" and script.parent.name == "scripts":
        return str(script.parents[1] / NAME)
    return str(script) if script.name == NAME else NAME
