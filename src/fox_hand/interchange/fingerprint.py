"""A short mark of a rig's structure, rest stance and proportions, stored in cards."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable

import numpy as np

from fox_hand.core.model.controls import Control, Setting
from fox_hand.core.model.skeleton import Skeleton

TURN_STEP, PLACE_STEP = 0.005, 0.002  # of a unit quaternion's entries; of the figure's size
DRAWN, CHOSEN = re.compile(r"__(added_)?\d+$"), "_drawing"  # names of drawings, and of what chooses
BESIDE = 0.381966  # steps: plain numbers, of which files are full, never lie on a border


def fingerprint(
    controls: Iterable[Control], settings: Iterable[Setting], skeleton: Skeleton
) -> str:
    """Sixteen hex digits that change when the rig's controls or settings change, a dot, and twelve
    that change when its rest stance or its proportions do. Drawings of a puppet do not count, nor
    what chooses among them: a part may get another one, and its cards are as good as before."""
    controls = [c for c in controls if not (c.helper and DRAWN.search(c.name))]
    counted = [s.name for s in settings if s.options == () or not s.name.endswith(CHOSEN)]
    text = "\n".join([*(c.name for c in controls), "", *counted])
    names = hashlib.sha256(text.encode(errors="surrogatepass")).hexdigest()[:16]
    return f"{names}.{_rest_mark(skeleton, [c.node for c in controls if c.moves_node])}"


def _rest_mark(skeleton: Skeleton, nodes: list[int]) -> str:
    places, turns = skeleton.rest_world[nodes, :3, 3], skeleton.rest_turns[nodes]
    size = float(np.linalg.norm(np.ptp(places, axis=0))) if nodes else 0.0
    # q and -q are the same turn, and which of its entries is largest may be a tie: squares
    # and products do not ask
    pairs = (turns[:, :, None] * turns[:, None, :]).reshape(-1)
    step = PLACE_STEP * max(size, 1e-9)
    numbers = np.concatenate([places.ravel() / step, pairs / TURN_STEP]) + BESIDE
    scale = np.array([round(np.log(max(size, 1e-9)) / PLACE_STEP + BESIDE)])
    whole = np.concatenate([scale, np.floor(np.clip(numbers, -1e12, 1e12))]).astype("<i8")
    return hashlib.sha256(whole.tobytes()).hexdigest()[:12]


def same_names(one: str, other: str) -> bool:
    """Whether two rigs have the same controls and settings."""
    return one.partition(".")[0] == other.partition(".")[0]
