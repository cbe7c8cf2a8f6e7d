"""How a figure stood when it was last seen, so that closing loses nothing."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.base.versions import upgrade
from fox_hand.core.rig import Rig
from fox_hand.core.rotations import Array
from fox_hand.core.state import State
from fox_hand.library.atomic import make_folder, write_atomically

VERSION = 1


class KeptFigure(msgspec.Struct, omit_defaults=True):
    """Channel values by control and setting name: metres, quaternions, degrees."""

    version: int
    rig: str
    move: dict[str, tuple[float, float, float]] = {}
    turn: dict[str, tuple[float, float, float, float]] = {}
    euler: dict[str, tuple[float, float, float]] = {}
    scale: dict[str, tuple[float, float, float]] = {}
    settings: dict[str, float] = {}
    selected: list[str] = []


def kept_path(places: Places, rig_path: Path) -> Path:
    """One file per rig file."""
    key = hashlib.sha256(str(rig_path.resolve()).encode()).hexdigest()[:16]
    return places.state / "figures" / f"{rig_path.stem}-{key}.json"


def keep_figure(
    places: Places, rig_path: Path, rig: Rig, state: State, selected: tuple[int, ...]
) -> None:
    """Write down how the figure stands.

    Raises:
        FoxHandError: ``file.write``.
    """
    names = [c.name for c in rig.controls]

    def rows(values: Array, rest: Array) -> dict[str, Any]:
        changed = (values != rest).any(-1)
        return {names[i]: tuple(values[i].tolist()) for i in range(len(names)) if changed[i]}

    kept = KeptFigure(
        VERSION,
        str(rig_path),
        rows(state.move, rig.rest.move),
        rows(state.turn, rig.rest.turn),
        rows(state.euler, rig.rest.euler),
        rows(state.scale, rig.rest.scale),
        {
            s.name: float(v)
            for s, v, d in zip(rig.settings, state.settings, rig.rest.settings, strict=True)
            if v != d
        },
        [names[r] for r in selected],
    )
    path = kept_path(places, rig_path)
    make_folder(path.parent)
    write_atomically(path, msgspec.json.encode(kept))


def kept_figure(places: Places, rig_path: Path, rig: Rig) -> tuple[State, tuple[int, ...]] | None:
    """How the figure stood, and what was selected; None where nothing usable was kept.

    Controls the rig no longer has are passed over.
    """
    path = kept_path(places, rig_path)
    try:
        raw: Any = msgspec.json.decode(path.read_bytes())
        if not isinstance(raw, dict):
            return None
        document = upgrade(raw, current=VERSION, steps={}, what="kept figure")
        kept = msgspec.convert(document, KeptFigure)
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError, FoxHandError):
        return None
    rest = rig.rest
    move, turn, scale = rest.move.copy(), rest.turn.copy(), rest.scale.copy()
    euler, settings = rest.euler.copy(), rest.settings.copy()
    for array, values in ((move, kept.move), (euler, kept.euler), (scale, kept.scale)):
        for name, triple in values.items():
            if name in rig.control_row:
                array[rig.control_row[name]] = triple
    for name, quaternion in kept.turn.items():
        if name in rig.control_row:
            turn[rig.control_row[name]] = quaternion
    for name, value in kept.settings.items():
        if name in rig.setting_row:
            settings[rig.setting_row[name]] = value
    selected = tuple(rig.control_row[n] for n in kept.selected if n in rig.control_row)
    return rest.with_(move=move, turn=turn, scale=scale, settings=settings, euler=euler), selected
