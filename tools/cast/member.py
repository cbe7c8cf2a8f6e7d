"""Somebody of the cast: the rig that is posed by numbers, and the rig that the cards are for."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from cast.figure import sculpt
from cast.glb import write_glb
from cast.house import AXES, house_name
from cast.people import QUILL
from cast.sidecar import sidecar_of
from fox_hand.core.maths.rotations import from_matrix, inverse, multiply
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path, write_sidecar


@dataclass(frozen=True)
class Member:
    """One of the cast.

    Args:
        rig: whose cards are made.
        plain: the same figure with the names and axes that the numbers are written for.
        house: whether ``rig`` is built another house's way.
    """

    rig: Rig
    plain: Rig
    house: bool = False

    @staticmethod
    def read(cast: Path, name: str) -> Member:
        """By the name of the rig's file."""
        rig = read_rig(cast / f"{name}.glb")
        return Member(rig, _plain_quill(), True) if name == "quill" else Member(rig, rig)

    def state(self, posed: State) -> State:
        """How the rig stands where the plain figure is posed so."""
        if not self.house:
            return posed
        rig, plain = self.rig, self.plain
        axes = from_matrix(AXES)
        move, turn = rig.rest.move.copy(), rig.rest.turn.copy()
        settings = rig.rest.settings.copy()
        for name, row in plain.control_row.items():
            there = rig.control_row[house_name(name)]
            move[there] = np.round(AXES.T @ posed.move[row], 6)
            turn[there] = multiply(inverse(axes), multiply(posed.turn[row], axes))
        for name, row in plain.setting_row.items():
            settings[rig.setting_row[house_name(name)]] = posed.settings[row]
        return rig.rest.with_(move=move, turn=turn, settings=settings)

    def choice(self, chosen: ChannelFilter) -> ChannelFilter:
        """The same channels on the rig."""
        if not self.house:
            return chosen
        rig, plain = self.rig, self.plain
        rows = {rig.control_row[house_name(n)]: row for n, row in plain.control_row.items()}
        channels = {
            there: chosen.channels[row] for there, row in rows.items() if row in chosen.channels
        }
        settings = frozenset(
            rig.setting_row[house_name(n)]
            for n, row in plain.setting_row.items()
            if row in chosen.settings
        )
        return ChannelFilter(channels, settings)


def _plain_quill() -> Rig:
    """Quill before another house built the rig anew."""
    figure = sculpt(QUILL)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "quill.glb"
        write_glb(figure, path, "quill")
        sidecar_path(path).write_bytes(write_sidecar(sidecar_of(figure, "Quill")))
        return read_rig(path)
