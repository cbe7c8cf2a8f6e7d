"""A simulated host in this process, pumped by a thread as a program's idle timer would."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path

import pytest

from fox_hand.demo.host import simulated_host
from fox_hand.demo.host.simulated_host import Habits, SimulatedHost
from fox_hand.interchange.link import Connection
from fox_hand.interchange.link.fox_hand_link import Link
from fox_hand.interchange.readers import read_rig


class Running:
    """A host with its link; what is asked is done one after the other with what tests look at."""

    def __init__(
        self, habits: Habits, folder: Path, watch: float, *, moves: bool, number: int = 0
    ) -> None:
        self.host = SimulatedHost(habits, moves=moves)
        self.link = Link(self.host, folder, watch)
        if number:  # as of another process
            self.link.path = folder / f"harbour-host-{number}.sock"
        self.host.dropped = self.link.drop_all
        self.lock = threading.Lock()
        self._stop = threading.Event()
        self.link.start()
        self._thread = threading.Thread(target=self._pump)
        self._thread.start()

    def _pump(self) -> None:
        while not self._stop.wait(0.002):
            with self.lock:
                self.link.pump()

    def connect(self) -> Connection:
        return Connection(self.link.path)

    def stop(self) -> None:
        if self._stop.is_set():
            return
        self._stop.set()
        self._thread.join()
        self.link.stop()


PLAIN = Habits()
Start = Callable[..., Running]


@pytest.fixture
def start(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Start]:
    """Starts hosts; their rigs are read once for all."""
    monkeypatch.setattr(simulated_host, "read_rig", cache(read_rig))
    running: list[Running] = []

    def make(habits: Habits = PLAIN, watch: float = 5.0, *, moves: bool = False) -> Running:
        running.append(Running(habits, tmp_path / "hosts", watch, moves=moves))
        return running[-1]

    yield make
    for one in running:
        one.stop()
