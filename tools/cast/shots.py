"""``python -m cast.shots PROJECT``: the demo's shots, made with the program's own commands."""

from __future__ import annotations

import shutil
import sys
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.base.places import Places
from fox_hand.core.animation.curves import Origin
from fox_hand.core.pose.sides import Sides
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.session.animating.clips import clip_for
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.application import Part
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.snapshot import KeptBackdrop
from fox_hand.session.shots.project import Project, write_project

ORDER = ("nf_010", "nf_020", "nf_030", "nf_040")
NAME = "The Night Ferry"


@dataclass(frozen=True)
class Put:
    """A card on somebody: where, how much of it, until when it holds, and of whose library."""

    who: str
    card: str
    frame: int
    until: int = 0
    amount: float = 1.0
    side: Sides = Sides.CAPTURED
    only: tuple[str, ...] = ()
    of: str = "Marrow"


class Stage:
    """One shot in the making."""

    def __init__(self, project: Path, places: Places, length: int) -> None:
        self.project = project
        self.workspace = Workspace(places)
        self.workspace.open_libraries.open(project / "library")
        self.workspace.timing.set_range(1, length)
        self.cast: dict[str, Figure] = {}

    def bring(self, name: str, prefix: str, at: Sequence[float]) -> None:
        """Put a character on the stage."""
        actor = self.workspace.open_rig(self.project / "cast" / f"{name}.glb")
        actor.prefix = prefix
        actor.stand_at(np.array(at, dtype=np.float64))
        self.cast[prefix] = actor

    def entry(self, name: str, who: str = "Marrow") -> Entry:
        """A card by its name, of one character."""
        entries = self.workspace.open_libraries.entries()
        return next(e for e in entries if e.name == name and e.character == who)

    def at_hand(self, who: str, *names: str) -> None:
        """Cards on the number keys, from 1 on."""
        self.workspace.shots.hold([self.entry(name, who).identity for name in names])

    def put(self, one: Put) -> None:
        """Put a card on, keyed; for another character it is fitted."""
        workspace = self.workspace
        workspace.act(self.cast[one.who])
        for frame in (one.frame, *([one.until] if one.until else [])):
            workspace.go(float(frame))
            workspace.selection.set(())
            workspace.applying.put_on(self.entry(one.card, one.of))
            mix = workspace.mix
            assert mix is not None, one
            mix.set_keyed(True)
            mix.set_side(one.side)
            if one.only:
                mix.set_part(Part.REGIONS, [r for r in mix.regions if r.value in one.only])
            mix.set_amount(one.amount)
            workspace.keep_mix()

    def lay(self, who: str, card: str, frame: int, of: str = "Marrow", **how: Any) -> None:
        """Lay a clip in, of some character's library."""
        workspace = self.workspace
        workspace.act(self.cast[who])
        workspace.go(float(frame))
        entry = self.entry(card, of)
        read = read_card(entry.path)[0]
        clip = clip_for(entry, read, self.cast[who], workspace.mix_commands.fits)
        placement = workspace.placements.begin(
            clip, Origin(read.identity, read.name, read.revision)
        )
        assert placement is not None
        side = how.pop("side", None)
        if side is not None:
            placement.set_side(side)
        placement.change(**how)
        workspace.placements.keep()

    def save(self, name: str, who: str) -> None:
        """Write the shot, seen from its first frame."""
        workspace = self.workspace
        workspace.act(self.cast[who])
        workspace.go(1.0)
        workspace.selection.set(())
        workspace.shots.save(self.project / "shots" / f"{name}.foxshot")
        workspace.shots.close()


def nf_010(stage: Stage) -> None:
    """Marrow waves the ferry in."""
    stage.bring("marrow", "marrow", (0, 0, 0))
    for put in (
        Put("marrow", "Stand easy", 1, 10),
        Put("marrow", "Wave", 20, 62),
        Put("marrow", "Arms up", 74, 84),
        Put("marrow", "Stand easy", 96),
        Put("marrow", "Neutral", 1, 8),
        Put("marrow", "Glad", 18, 60),
        Put("marrow", "Surprised", 68, 72, 0.7),
        Put("marrow", "Glad", 80, 96),
        Put("marrow", "Point", 34, 40, only=("hands",)),
        Put("marrow", "Open wide", 46, 60, only=("hands",)),
    ):
        stage.put(put)
    stage.lay("marrow", "Wave loop", 22, repeats=2.0, fade_in=4.0, fade_out=6.0)
    stage.lay("marrow", "Blink", 5, repeats=2.0, gap=40.0, jitter=6.0, seed=4)
    stage.lay("marrow", "Breathe", 1, repeats=1.0)
    stage.workspace.timing.set_marks([20, 46, 74])
    stage.at_hand(
        "Marrow",
        "Stand easy",
        "Wave",
        "Arms up",
        "Point across",
        "Neutral",
        "Glad",
        "Surprised",
        "Open wide",
        "Point",
    )
    stage.save("nf_010", "marrow")


def nf_020(stage: Stage) -> None:
    """Pim hides and peeks."""
    stage.bring("pim", "pim", (0, 0, 0))
    for put in (
        Put("pim", "Stand easy", 1, 6),
        Put("pim", "Crouch", 18, 48),
        Put("pim", "Stand easy", 60, 72, 0.6),
        Put("pim", "Surprised", 1, 8),
        Put("pim", "Afraid", 18, 44),
        Put("pim", "Glad", 62, 72, 0.8),
    ):
        stage.put(put)
    stage.lay("pim", "Double blink", 30)
    stage.lay("pim", "Nod", 54, strength=0.6)
    stage.at_hand(
        "Pim", "Stand easy", "Crouch", "Peek", "Sneak", "Neutral", "Afraid", "Glad", "Surprised"
    )
    stage.save("nf_020", "pim")


def nf_030(stage: Stage) -> None:
    """Quill checks tickets with Marrow; two copies of Pim in the background."""
    stage.bring("quill", "quill", (-0.55, 0, 0))
    stage.bring("marrow", "marrow", (0.45, 0, 0))
    stage.bring("pim", "pim", (-1.25, 0, -0.9))
    stage.bring("pim", "pim_2", (1.25, 0, -0.9))
    for put in (
        Put("quill", "Stand easy", 1, 12),
        Put("quill", "Point across", 30, 60, 0.5),
        Put("quill", "Stand easy", 78),
        Put("marrow", "Stand easy", 1, 24),
        Put("marrow", "Wave", 40, 56, 0.5, Sides.OTHER),
        Put("marrow", "Stand easy", 72),
        Put("marrow", "Neutral", 1, 24),
        Put("marrow", "Surprised", 34, 40, 0.6),
        Put("marrow", "Glad", 56, 78),
        Put("marrow", "Two-finger", 36, 58, side=Sides.OTHER),
        Put("pim", "Sit on bollard", 1),
        Put("pim_2", "Arms up", 1, 10, 0.8),
        Put("pim_2", "Stand easy", 30),
        Put("pim_2", "Arms up", 50, 60, 0.8),
    ):
        stage.put(put)
    stage.lay("marrow", "Blink", 10, repeats=2.0, gap=30.0)
    stage.lay("pim", "Breathe", 1)
    stage.lay("pim_2", "Wave loop", 8, repeats=1.0, side=Sides.OTHER)
    stage.at_hand(
        "Quill", "Stand easy", "Check a ticket", "Hand out", "Neutral", "Doubt", "Ticket pinch"
    )
    stage.save("nf_030", "marrow")


def nf_040(stage: Stage) -> None:
    """Gull on the rail: planar turns, drawings that are swapped, another view for a moment."""
    stage.bring("gull", "gull", (0, 0, 0))
    for frame, card in VIEWED:
        stage.put(Put("gull", card, frame, of="Gull"))
    for put in (
        Put("gull", "On rail", 1, 12, of="Gull"),
        Put("gull", "Peck", 20, 26, of="Gull"),
        Put("gull", "Beak ticket", 28, of="Gull"),
        Put("gull", "Mutter", 31, 34, 0.6, of="Gull"),
        Put("gull", "Squawk", 37, 48, 0.7, of="Gull"),
        Put("gull", "Glance, half", 52, 57, of="Gull"),
        Put("gull", "On rail", 60, 72, of="Gull"),
    ):
        stage.put(put)
    stage.lay("gull", "Blink", 4, of="Gull")
    stage.lay("gull", "Bob", 1, of="Gull")
    stage.lay("gull", "Wing flap", 38, of="Gull")
    stage.lay("gull", "Blink", 64, of="Gull")
    stage.workspace.timing.set_marks([13, 49])
    behind = stage.project / "backdrops"
    stage.workspace.shots.backdrops.show(
        [
            KeptBackdrop(str(behind / f"{name}.webp"), near, 0.06, -0.19, 0.9)
            for name, near in (("lake", False), ("quay", True))
        ]
    )
    stage.at_hand(
        "Gull",
        "On rail",
        "Squawk",
        "Peck",
        "Doze",
        "Gull side",
        "Gull half",
        "Gull front",
        "Beak shout",
        "Eye shut",
    )
    stage.save("nf_040", "gull")


VIEWED = ((1, "Gull side"), (51, "Gull half"), (58, "Gull side"))


def main() -> None:
    project = Path(sys.argv[1]).absolute()
    rigs = tuple(f"cast/{n}.glb" for n in ("marrow", "pim", "quill", "brandle", "gull"))
    shutil.rmtree(project / "shots", ignore_errors=True)
    (project / "shots").mkdir()
    write_project(Project(project, NAME, 24.0, ("library",), rigs))
    lengths = {"nf_010": 96, "nf_020": 72, "nf_030": 84, "nf_040": 72}
    for name, make in (
        ("nf_010", nf_010),
        ("nf_020", nf_020),
        ("nf_030", nf_030),
        ("nf_040", nf_040),
    ):
        with tempfile.TemporaryDirectory() as folder:
            make(Stage(project, Places.under(Path(folder)), lengths[name]))
        print(name, (project / "shots" / f"{name}.foxshot").stat().st_size)
    shots = tuple(f"shots/{name}.foxshot" for name in ORDER)
    write_project(replace(Project(project, NAME, 24.0, ("library",), rigs), shots=shots))


if __name__ == "__main__":
    main()
