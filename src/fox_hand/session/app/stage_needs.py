"""What everybody who works on the stage may know of the workspace; :mod:`needs` has the rest."""

from __future__ import annotations

from typing import Protocol

from psygnal import SignalInstance

from fox_hand.session.applying.mix import Mix
from fox_hand.session.applying.mix_commands import MixCommands
from fox_hand.session.figures.cast import Cast
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.selection import Selection
from fox_hand.session.runtime.settings import Settings


class OnStage(Protocol):
    """Who acts, and how that is chosen."""

    @property
    def actor(self) -> Figure | None: ...
    @property
    def actor_changed(self) -> SignalInstance: ...
    @property
    def cast(self) -> Cast: ...
    @property
    def selection(self) -> Selection: ...
    @property
    def settings(self) -> Settings: ...


class Mixing(Protocol):
    """What is being put on."""

    @property
    def mix(self) -> Mix | None: ...
    @property
    def mix_changed(self) -> SignalInstance: ...
    @property
    def mix_commands(self) -> MixCommands: ...
    def keep_mix(self) -> None: ...
    def put_back(self) -> None: ...
    def mix_for(self, actor: Figure) -> None: ...
