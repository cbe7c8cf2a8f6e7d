"""What a part of the window may know of the workspace: no more than its own work needs."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol

from psygnal import SignalInstance

from fox_hand.base.places import Places
from fox_hand.core.model.state import State
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.core.view.camera import Camera
from fox_hand.session.animating.clip_placement import ClipPlacements
from fox_hand.session.animating.frame_review import FrameReview
from fox_hand.session.animating.keying import Keying
from fox_hand.session.app.apply_controller import ApplyController
from fox_hand.session.app.linked_stage import LinkedStage
from fox_hand.session.app.shot_settings import ShotSettings
from fox_hand.session.app.stage_needs import Mixing, OnStage
from fox_hand.session.capturing.capture_controller import CaptureController
from fox_hand.session.charts.chart_book import ChartBook
from fox_hand.session.charts.gap_filling import GapFilling
from fox_hand.session.figures.figure import Edit, Figure
from fox_hand.session.figures.playhead import Playhead
from fox_hand.session.libraries.card_commands import CardCommands
from fox_hand.session.libraries.file_jobs import FileJobs
from fox_hand.session.libraries.kept_searches import KeptSearches
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.sheet_commands import SheetCommands
from fox_hand.session.runtime.history import History
from fox_hand.session.runtime.long_work import LongWork
from fox_hand.session.shots.backdrops import Backdrops


class Acting(OnStage, Protocol):
    """Who acts, here or in a host."""

    @property
    def failed(self) -> SignalInstance: ...
    @property
    def linking(self) -> LinkedStage: ...


class Posing(Acting, Mixing, Protocol):
    """The figure, posed by hand and by cards: for stage and picker."""

    @property
    def capturing(self) -> CaptureController: ...
    @property
    def history(self) -> History: ...
    def act(self, actor: Figure) -> None: ...
    def edit(self, label: str, *, free: bool = False) -> Edit: ...
    def apply(self, label: str, state: State) -> None: ...
    def reset(self, rows: Iterable[int] | None, label: str) -> None: ...
    def set_locks(self, locks: frozenset[Lock], label: str) -> None: ...
    def keep_view(self, name: str, camera: Camera | None) -> None: ...


class Animating(Acting, Protocol):
    """Keys and clips over frames: for the timeline, and what the stage shows of it."""

    @property
    def backdrops(self) -> Backdrops: ...
    @property
    def timing(self) -> Playhead: ...
    @property
    def shot_settings(self) -> ShotSettings: ...
    @property
    def keying(self) -> Keying: ...
    @property
    def placements(self) -> ClipPlacements: ...
    @property
    def review(self) -> FrameReview: ...
    @property
    def open_libraries(self) -> OpenLibraries: ...
    @property
    def places(self) -> Places: ...
    def go(self, frame: float) -> bool: ...
    def keep_mix(self) -> None: ...


class PosingInTime(Posing, Animating, Protocol):
    """Both: for the onion skin on the stage."""


class Shelving(Acting, Mixing, Protocol):
    """Cards and libraries: for the sheets and for Care."""

    @property
    def open_libraries(self) -> OpenLibraries: ...
    @property
    def places(self) -> Places: ...
    @property
    def card_commands(self) -> CardCommands: ...
    @property
    def file_jobs(self) -> FileJobs: ...
    @property
    def long_work(self) -> LongWork: ...
    @property
    def sheet_commands(self) -> SheetCommands: ...
    @property
    def kept_searches(self) -> KeptSearches: ...


class Charting(Shelving, Protocol):
    """Charts and what fills them."""

    @property
    def charts(self) -> ChartBook: ...
    @property
    def gap_filling(self) -> GapFilling: ...
    @property
    def history(self) -> History: ...


class Capturing(Shelving, Protocol):
    """A card being made."""

    @property
    def capturing(self) -> CaptureController: ...


class Copying(Shelving, Protocol):
    """Poses that go over the clipboard."""

    @property
    def applying(self) -> ApplyController: ...
