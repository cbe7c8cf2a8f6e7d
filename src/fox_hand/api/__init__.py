"""Fox Hand for other programs: libraries, rigs, poses and cards without any window.

Values are plain numbers by control and channel, relative to rest: ``move.x`` in metres along the
rest axes, ``turn.x`` in degrees by the control's own order, ``scale.x`` as a factor, and settings
by their names. What goes wrong raises :class:`FoxHandError`, whose sentence can be shown to people;
nothing is half-done then. Loading this module loads nothing heavy.
What is named ``core``, ``state`` or ``renderer`` belongs to the rest of the program and may change.

- ``card``: place_of, Card
- ``fit``: FitLine, Fit, fit_report
- ``library``: CardFacts, SlotFacts, ChartFacts, Library
- ``linked_host``: HostedRig, LinkedHost
- ``pictures``: Pictures, files_of
- ``rig``: ControlFacts, SettingFacts, Rig
- ``stance``: figure_of, Stance
- ``values``: channel_values, held_values, moved_nodes, pose_with, values_of, with_values
"""

from __future__ import annotations

from typing import Final

from fox_hand.api.card import Card
from fox_hand.api.fit import Fit, FitLine
from fox_hand.api.library import CardFacts, ChartFacts, Library, SlotFacts
from fox_hand.api.linked_host import HostedRig, LinkedHost
from fox_hand.api.pictures import Pictures
from fox_hand.api.rig import ControlFacts, Rig, SettingFacts
from fox_hand.api.stance import Stance
from fox_hand.base.errors import FoxHandError

VERSION: Final = "1.1"  # of these names and what they take: 1.1 has more of them, 2.0 others

__all__ = [
    "VERSION",
    "Card",
    "CardFacts",
    "ChartFacts",
    "ControlFacts",
    "Fit",
    "FitLine",
    "FoxHandError",
    "HostedRig",
    "Library",
    "LinkedHost",
    "Pictures",
    "Rig",
    "SettingFacts",
    "SlotFacts",
    "Stance",
]
