"""The command line: what to do, as typed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from fox_hand import __version__
from fox_hand.base.language import tr
from fox_hand.cli.command_words import OwnGroup, speak
from fox_hand.cli.commands.capture_all import add_capture_all
from fox_hand.cli.commands.cards import card_commands
from fox_hand.cli.commands.cards import schema as card_schema
from fox_hand.cli.commands.chart_commands import chart_commands
from fox_hand.cli.commands.converting import add_convert
from fox_hand.cli.commands.demo import demo_commands
from fox_hand.cli.commands.desktop_commands import desktop_commands, thumbnail
from fox_hand.cli.commands.library import library_commands
from fox_hand.cli.commands.link_commands import link_commands
from fox_hand.cli.commands.motion_commands import add_motion_commands
from fox_hand.cli.commands.picture_commands import add_picture_commands
from fox_hand.cli.commands.puppet_commands import puppet_commands
from fox_hand.cli.commands.rig_commands import rig_commands
from fox_hand.cli.commands.shot_commands import project_commands, shot_commands
from fox_hand.cli.talk import Talk, Verbose, command
from fox_hand.cli.wish import Wish, wish_for

if TYPE_CHECKING:
    from fox_hand.cli.commands.demo import ShowHost

NAME = "fox-hand"
SHORT = {"help_option_names": ["-h", "--help"]}


def version(wanted: bool) -> None:
    """Say which version this is, and end."""
    if wanted:
        typer.echo(tr("Fox Hand {version__}", version__=__version__))
        raise typer.Exit


def taken_over(path: Path) -> bool:
    """Whether a window that is open has taken a file."""
    from fox_hand.session.runtime.door import door_path, knock

    return knock(door_path(), [path])


def add_open(app: typer.Typer, show: Callable[[Wish], int]) -> None:
    """``fox-hand open``; ``show`` opens the window and returns the exit code."""

    def open_file(
        talk: Talk,
        file: Annotated[
            Path,
            typer.Argument(help=tr("A character, shot, card, pack, project or library.")),
        ],
        library: Annotated[
            Path | None, typer.Option("--library", help=tr("A library to open with it."))
        ] = None,
        new: Annotated[
            bool, typer.Option("--new", help=tr("In a window of its own, also where one is open."))
        ] = False,
    ) -> None:
        """Open something of your own in the window."""
        wish = talk.or_exit(lambda: wish_for(file, library))
        if library is None and not new and taken_over(file.absolute()):
            talk.note(tr("The window that is open has taken it."))
            return
        raise typer.Exit(show(wish))

    command(app, "open")(open_file)


def make_app(show: Callable[[Wish], int], show_host: ShowHost | None = None) -> typer.Typer:
    """The commands; ``show`` opens the window and returns the exit code."""
    speak()
    app = typer.Typer(
        cls=OwnGroup,
        name=NAME,
        help=tr("Fox Hand keeps the poses of rigged characters as cards and puts them back on."),
        context_settings=SHORT,
        # plain help: three times quicker, and the same in a pipe
        rich_markup_mode=None,
        pretty_exceptions_enable=False,
    )

    @app.callback(invoke_without_command=True)
    def start(
        context: typer.Context,
        _version: Annotated[
            bool, typer.Option("--version", callback=version, is_eager=True, help=tr("Say which."))
        ] = False,
        verbose: Verbose = False,
    ) -> None:
        if verbose:
            from fox_hand.base.system.log import say_more

            say_more()
        if context.invoked_subcommand is None:
            raise typer.Exit(show(Wish()))

    add_open(app, show)
    command(app, "card-schema")(card_schema)
    command(app, "thumbnail")(thumbnail)
    add_motion_commands(app)
    add_capture_all(app)
    add_convert(app)
    add_picture_commands(app)
    groups = {
        "card": card_commands(),
        "chart": chart_commands(),
        "puppet": puppet_commands(),
        "rig": rig_commands(),
        "library": library_commands(),
        "shot": shot_commands(),
        "project": project_commands(),
        "desktop": desktop_commands(),
        "link": link_commands(),
        "demo": demo_commands(lambda: show(Wish(demo=True)), show_host),
    }
    for name, group in groups.items():
        app.add_typer(group, name=name)
    return app
