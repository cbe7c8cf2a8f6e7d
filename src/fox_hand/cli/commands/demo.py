"""``fox-hand demo``: the crew of the night ferry, and stand-ins for people and machines."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.talk import Talk, Verbose, command

if TYPE_CHECKING:
    from fox_hand.demo.host.simulated_host import SimulatedHost

    ShowHost = Callable[[SimulatedHost], int]


def demo_commands(show: Callable[[], int], show_host: ShowHost | None = None) -> typer.Typer:
    """The commands; ``show`` opens the window with the demo, ``show_host`` that of the host."""
    demo = typer.Typer(cls=OwnGroup, help=tr("The demo: the crew of the night ferry."))

    @demo.callback(invoke_without_command=True)
    def start(context: typer.Context, verbose: Verbose = False) -> None:
        """Open the demo, or start one of its stand-ins."""
        if verbose:
            from fox_hand.base.system.log import say_more

            say_more()
        if context.invoked_subcommand is None:
            raise typer.Exit(show())

    command(demo)(colleague)
    command(demo)(share)
    command(demo)(_host_command(show_host))
    return demo


def colleague(
    talk: Talk,
    library: Annotated[
        Path | None, typer.Option("--library", help=tr("A library; the demo's without it."))
    ] = None,
    every: Annotated[
        float, typer.Option("--every", min=0, help=tr("Seconds between two deeds."))
    ] = 4.0,
    deeds: Annotated[int, typer.Option("--deeds", min=0, help=tr("How many; 0 goes on."))] = 0,
    seed: Annotated[int, typer.Option("--seed", help=tr("The same deeds again."))] = 1,
) -> None:
    """A colleague who adds, changes, tags and moves cards in a library you have open."""
    from fox_hand.base.places import Places
    from fox_hand.demo.colleague import Colleague
    from fox_hand.demo.demo_project import prepare

    folder = library or talk.or_exit(lambda: prepare(Places.of_user()))[1]
    tomas = talk.or_exit(lambda: Colleague(folder, seed))
    talk.fact(tr("{name} works in {folder}. Stop with Ctrl+C.", name=tomas.name, folder=folder))
    tomas.work(every, deeds, talk.fact)


def share(
    talk: Talk,
    folder: Annotated[
        Path | None, typer.Argument(help=tr("Where; in the user's data folder without it."))
    ] = None,
    flaky: Annotated[
        bool, typer.Option("--flaky", help=tr("It goes away, refuses and comes back."))
    ] = False,
    there: Annotated[
        float, typer.Option("--there", min=0, help=tr("Seconds it works well."))
    ] = 12.0,
    away: Annotated[float, typer.Option("--away", min=0, help=tr("Seconds it does not."))] = 8.0,
    rounds: Annotated[int, typer.Option("--rounds", min=0, help=tr("How often; 0 goes on."))] = 0,
) -> None:
    """A folder that stands in for a network share, with a copy of the demo's library."""
    from fox_hand.base.places import Places
    from fox_hand.demo.share import Share

    place = folder or Places.of_user().data / "night-ferry" / "share"
    drive = talk.or_exit(lambda: Share.made(place))
    talk.fact(
        tr("The share is {place}. Add it as a library: fox-hand open, or the menu.", place=place)
    )
    if flaky:
        talk.fact(tr("Stop with Ctrl+C; it is left whole."))
        drive.be_flaky(there, away, rounds, talk.fact)


def _host_command(show_host: ShowHost | None) -> Callable[..., None]:
    def host(
        talk: Talk,
        scene: Annotated[
            Path | None,
            typer.Option("--scene", help=tr("A file that its scene is kept in from step to step.")),
        ] = None,
        slow: Annotated[
            float, typer.Option("--slow", min=0, max=5000, help=tr("Milliseconds for each answer."))
        ] = 0.0,
        forgetful: Annotated[
            bool, typer.Option("--forgetful", help=tr("It hangs up in the middle of previews."))
        ] = False,
        stubborn: Annotated[
            bool, typer.Option("--stubborn", help=tr("It keeps locked channels as they are."))
        ] = False,
        changing: Annotated[
            bool, typer.Option("--changing", help=tr("It edits its scene behind your back."))
        ] = False,
        headless: Annotated[bool, typer.Option("--headless", help=tr("Without a window."))] = False,
    ) -> None:
        """A stand-in for an animation program to be linked to, with two figures of its own."""
        from fox_hand.demo.host.simulated_host import Habits, SimulatedHost, run

        habits = Habits(slow / 1000, forgetful, stubborn, changing)
        simulated = talk.or_exit(lambda: SimulatedHost(habits, scene, moves=True))
        if show_host is not None and not headless:
            raise typer.Exit(show_host(simulated))
        talk.note(tr("Stop with Ctrl+C."))
        run(simulated, talk.fact)

    return host
