"""``fox-hand link``: hosts that can be linked to, what they do right and wrong, and the file that a
port begins with."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.talk import Talk, command

Socket = Annotated[
    Path | None, typer.Argument(help=tr("The host's socket; that of the last one without it."))
]


def link_commands() -> typer.Typer:
    link = typer.Typer(
        cls=OwnGroup,
        help=tr("The link to an animation program: see the manual, With your animation program."),
        no_args_is_help=True,
    )
    command(link, "list", facts=True)(list_hosts)
    command(link, "test", facts=True)(try_host)
    command(link)(adapter)
    return link


def list_hosts(talk: Talk) -> None:
    """Say which hosts are there."""
    from contextlib import closing

    from fox_hand.interchange.link import Connection, LinkError, sockets

    found = []
    for path in sockets():
        try:
            with closing(Connection(path, name="fox-hand link list")) as link:
                facts = link.host
        except LinkError as error:
            talk.note(f"{path}: {error.happened}")
            continue
        found.append({"socket": str(path), "name": facts.name, "scene": facts.scene})
    if talk.json:
        talk.data(found)
    for one in found if not talk.json else ():
        talk.fact("\t".join(one.values()))
    if not found:
        talk.problem(tr("No host is there. fox-hand demo host starts one to try it with."))
        raise typer.Exit(1)


def try_host(talk: Talk, host: Socket = None) -> None:
    """Try everything a host must do, and list what it does right and wrong. It ends with 1 where
    something is wrong. Use a scene you can lose: two steps are made in it and taken back."""
    from fox_hand.interchange.link import sockets
    from fox_hand.interchange.link.self_test import findings

    known = sockets()
    if host is None and not known:
        talk.problem(tr("No host is there. fox-hand demo host starts one to try it with."))
        raise typer.Exit(1)
    found = []
    for one in findings(host or known[0]):
        found.append(one)
        if not talk.json:
            sign = tr("fine") if one.right else tr("WRONG")
            talk.fact(f"{sign:<12}{one.what}{f': {one.detail}' if one.detail else ''}")
    wrong = sum(not one.right for one in found)
    if talk.json:
        talk.data([{"what": f.what, "right": f.right, "detail": f.detail} for f in found])
    else:
        talk.note(tr("{right} right, {wrong} wrong", right=len(found) - wrong, wrong=wrong))
    raise typer.Exit(1 if wrong else 0)


def adapter(talk: Talk) -> None:
    """Print the file to put into another program: plain Python, to be filled in."""
    from fox_hand.interchange.link import fox_hand_link

    talk.fact(Path(fox_hand_link.__file__).read_text("utf-8").rstrip("\n"))
