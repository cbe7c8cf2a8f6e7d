"""Kills a process again and again while it works on a shot, and looks what comes back.

Run by a test: ``python shot_killer.py FOLDER TIMES SEED``. Every child goes on where the one
before was killed, as a person would. It says what it has done before it is written down, and again
once that is on disk; after the kill nothing older than that may be missing.
"""

from __future__ import annotations

import os
import random
import signal
import sys
import time
from pathlib import Path

import numpy as np

from fox_hand.base.places import Places
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.gathering import arrived
from fox_hand.session.figures.snapshot import read_cast
from fox_hand.session.shots.shots import open_shot, stage_key

RIG = shipped() / "cast" / "pim.glb"
PATH_RIG = read_rig(RIG)


def setting(workspace: Workspace) -> int:
    """How far the work is: a number keyed on the figure, one more frame at each step."""
    actor = workspace.actor
    assert actor is not None
    return round(float(actor.take.base.settings[0] * 1000))


def staged(places: Places, path: Path) -> Workspace:
    workspace, opening = Workspace(places), open_shot(places, path)
    workspace.shots.begin(opening)
    for member in opening.cast.members:
        workspace.arrive(arrived(RIG, member, PATH_RIG))
    return workspace


def work(places: Places, path: Path, pipe: int) -> None:
    """Pose, key, write down, sometimes save; until killed."""
    workspace = staged(places, path)
    step = setting(workspace)
    while True:
        step += 1
        actor = workspace.actor
        assert actor is not None
        settings = actor.take.base.settings.copy()
        settings[0] = step / 1000
        actor.stand(actor.take.base.with_(settings=settings))
        workspace.go(float(1 + step % 70))
        workspace.selection.set(range(step % 30))
        workspace.keying.key()
        workspace.save_figure()  # what a timer does within a second of every change
        if step % 5 == 0:
            workspace.shots.save()
        os.write(pipe, step.to_bytes(4, "little"))


def main() -> None:
    folder, times, seed = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
    chance = random.Random(seed)
    places, path = Places.under(folder / "user"), folder / "killed.foxshot"
    workspace = Workspace(places)
    workspace.place(Figure(PATH_RIG, RIG))
    workspace.shots.save(path)
    workspace.shots.end()
    lost = recovered = steps = 0
    for _ in range(times):
        out, inside = os.pipe()
        child = os.fork()
        if child == 0:
            os.close(out)
            work(places, path, inside)
        os.close(inside)
        time.sleep(chance.uniform(0.01, 0.12))
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        said = b""
        while chunk := os.read(out, 65536):
            said += chunk
        os.close(out)
        last = int.from_bytes(said[-4:], "little") if len(said) >= 4 else 0
        opening = open_shot(places, path)
        again = staged(places, path)
        found = setting(again)
        again.shots.end()
        lost += found < last
        recovered += opening.recovered is not None
        steps = max(steps, found)
        kept = read_cast(places, stage_key(path))
        assert kept is None or np.isfinite(kept.members[0].ground).all()
    strays = [p.name for p in folder.rglob("*") if p.name.endswith(".unreadable.json")]
    print(f"kills {times} lost {lost} recovered {recovered} steps {steps} unreadable {len(strays)}")


if __name__ == "__main__":
    main()
