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

from cast.gull import DRAWINGS
from cast.poser import Poser
from fox_hand.base.places import Places
from fox_hand.core.animation.curves import Origin
from fox_hand.core.pose.sides import Sides
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.session.animating.clips import clip_for
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.application import Part
from fox_hand.session.figures.figure import Figure
from fox_hand.session.shots.project import Project, write_project

ORDER = ("nf_010", "nf_020", "nf_030", "nf_040")
NAME = "The Night Ferry"


@dataclass(frozen=True)
class Put:
    """A card on somebody: where, how much of it, and until when it holds."""

    who: str
    card: str
    frame: int
    until: int = 0
    amount: float = 1.0
    side: Sides = Sides.CAPTURED
    only: tuple[str, ...] = ()


class Stage:
    """One shot in the making."""

    def __init__(self, project: Path, places: Places, length: int) -> None:
        self._project = project
        self.workspace = Workspace(places)
        self.workspace.open_libraries.open(project / "library")
        self.workspace.timing.set_range(1, length)
        self.cast: dict[str, Figure] = {}

    def bring(self, name: str, prefix: str, at: Sequence[float]) -> None:
        """Put a character on the stage."""
        actor = self.workspace.open_rig(self._project / "cast" / f"{name}.glb")
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
            workspace.applying.put_on(self.entry(one.card))
            mix = workspace.mix
            assert mix is not None, one
            mix.set_keyed(True)
            mix.set_side(one.side)
            if one.only:
                mix.set_part(Part.REGIONS, [r for r in mix.regions if r.value in one.only])
            mix.set_amount(one.amount)
            workspace.keep_mix()

    def lay(self, who: str, card: str, frame: int, **how: Any) -> None:
        """Lay a clip in."""
        workspace = self.workspace
        workspace.act(self.cast[who])
        workspace.go(float(frame))
        entry = self.entry(card)
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
        workspace.shots.save(self._project / "shots" / f"{name}.foxshot")
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


WATCH: tuple[tuple[int, float, float, str, str], ...] = (
    (1, 0, 0, "closed", "folded"),
    (10, -8, -14, "closed", "folded"),
    (16, 10, 14, "open", "folded"),
    (20, 16, 26, "squawk", "up"),
    (23, 14, 24, "squawk", "down"),
    (26, 16, 26, "squawk", "up"),
    (29, 14, 24, "squawk", "down"),
    (34, 4, 6, "open", "folded"),
    (40, -4, -18, "closed", "folded"),
    (48, 0, 0, "closed", "folded"),
)  # frame, turn of the neck, turn of the head, beak, wing
SHUT = ((1, "open"), (5, "half"), (6, "shut"), (8, "half"), (9, "open"), (18, "half"), (36, "open"))


def nf_040(stage: Stage) -> None:
    """Gull on the rail: planar turns and drawings that are swapped."""
    stage.bring("gull", "gull", (0, 0.4, 0))
    workspace, rig = stage.workspace, stage.cast["gull"].rig
    eyes = dict(SHUT)
    used = ("body", "tail", "neck", "head", "drawings")
    frames = {row[0]: row[1:] for row in WATCH}
    for frame in sorted(eyes.keys() | frames.keys()):
        workspace.go(float(frame))
        poser = Poser.of(rig, stage.cast["gull"].state).setting("perch_drawing", 1)
        if frame in frames:
            neck, head, beak, wing = frames[frame]
            poser.turn("neck", sway=neck).turn("head", sway=head)
            poser.turn("body", sway=neck * 0.3).turn("tail", sway=-neck * 0.5)
            poser.setting("beak_drawing", DRAWINGS["beak"].index(beak))
            poser.setting("wing_drawing", DRAWINGS["wing"].index(wing))
        if frame in eyes:
            poser.setting("eye_drawing", DRAWINGS["eye"].index(eyes[frame]))
        workspace.apply("Pose", poser.state)
        workspace.selection.set([rig.control_row[name] for name in used])
        workspace.keying.key()
    workspace.timing.set_marks([20, 34])
    stage.at_hand(
        "Gull",
        "Side",
        "Squawk",
        "Flap",
        "Look down",
        "Beak shut",
        "Beak half",
        "Beak open",
        "Eye open",
        "Eye shut",
    )
    stage.save("nf_040", "gull")


def main() -> None:
    project = Path(sys.argv[1]).absolute()
    rigs = tuple(f"cast/{n}.glb" for n in ("marrow", "pim", "quill", "brandle", "gull"))
    shutil.rmtree(project / "shots", ignore_errors=True)
    (project / "shots").mkdir()
    write_project(Project(project, NAME, 24.0, ("library",), rigs))
    lengths = {"nf_010": 96, "nf_020": 72, "nf_030": 84, "nf_040": 48}
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
