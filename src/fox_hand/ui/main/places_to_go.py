"""What the finder offers: all commands, and every sheet, character and shot one can go to."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path

from fox_hand.base.language import tr
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.rig_files import rig_stem
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.commands.actions import Command, Where
from fox_hand.ui.commands.finder import Finder
from fox_hand.ui.commands.finding import Findable
from fox_hand.ui.main.home import Home

SETTINGS = tr("Settings")


def show_finder(home: Home) -> None:
    """Let somebody type what they look for."""
    Finder(home.theme, home.window, partial(findables, home)).open_in(home.window)


def findables(home: Home) -> list[Findable]:
    """Everything there is now, in the order of its groups."""
    commands = [_of_command(home, c) for c in home.actions_table if c.listed]
    return [
        *(c for c in commands if c.group != SETTINGS),
        *_sheets(home),
        *_characters(home),
        *_shots(home),
        *(c for c in commands if c.group == SETTINGS),
    ]


def _of_command(home: Home, command: Command) -> Findable:
    switch = command.checked is not None
    return Findable(
        command.words.removesuffix(" …"),
        command.run,
        SETTINGS if command.group == SETTINGS else tr("Commands"),
        command.more,
        command.icon,
        command.key,
        (tr("on") if command.checked is not None and command.checked() else tr("off"))
        if switch
        else "",
        command.ready() and (command.where is Where.ANYWHERE or home.screens.on_stage),
    )


def _sheets(home: Home) -> Iterator[Findable]:
    shown = (
        home.screens.on_stage and home.workspace.capturing.draft is None
    )  # else they are not in sight
    for place in home.workspace.open_libraries.places:
        for sheet in place.sheets:
            yield Findable(
                sheet.replace("/", " / "),
                partial(go_to_sheet, home, place, sheet),
                tr("Sheets and characters"),
                place.name,
                "library",
                ready=shown,
            )


def go_to_sheet(home: Home, place: OpenLibrary, sheet: str) -> None:
    """Bring a sheet to the top, whatever was narrowed before."""
    panel = home.sheets
    panel.show_all()
    panel.set_library(place.number if len(home.workspace.open_libraries.places) > 1 else None)
    panel.view.go_to_sheet(place, sheet)


def _characters(home: Home) -> Iterator[Findable]:
    workspace, group = home.workspace, tr("Sheets and characters")
    for member in workspace.cast:
        if isinstance(member, Figure):
            yield Findable(
                member.name,
                partial(workspace.act, member),
                group,
                tr("acts already") if member is workspace.actor else tr("on the stage"),
                "person-standing",
            )
    there = {m.path for m in workspace.cast.actors}
    for path in map(Path, workspace.settings.recent):
        if path not in there:
            run = partial(home.opener.open_rig, path)
            yield Findable(
                rig_stem(path), run, group, tr("comes onto the stage"), "person-standing"
            )


def _shots(home: Home) -> Iterator[Findable]:
    shots = home.workspace.shots
    known = list(shots.project.shot_paths()) if shots.project is not None else []
    known += [Path(p) for p in home.workspace.settings.recent_shots]
    for path in dict.fromkeys(known):
        if path != shots.path:
            run = partial(home.shot_opener.open, path)
            yield Findable(path.stem, run, tr("Shots"), path.parent.parent.name, "clapperboard")
