"""Files that are opened elsewhere come in by a socket of one person; nothing else does."""

from __future__ import annotations

import contextlib
import json
import queue
import socket
import stat
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fox_hand.session.runtime.door import LONGEST, MOST, Door, knock, understood


@pytest.fixture
def came() -> queue.Queue[list[Path]]:
    return queue.Queue()


@pytest.fixture
def door(tmp_path: Path, came: queue.Queue[list[Path]]) -> Iterator[Door]:
    made = Door(tmp_path / "run" / "w.sock", lambda run: run(), came.put)
    yield made
    made.close()


def said(path: Path, line: bytes) -> bytes:
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as way:
        way.settimeout(20)
        way.connect(str(path))
        way.sendall(line)
        way.shutdown(socket.SHUT_WR)
        return way.recv(64)


def test_a_file_is_taken_over_and_only_this_person_may(
    door: Door, tmp_path: Path, came: queue.Queue[list[Path]]
) -> None:
    path = tmp_path / "run" / "w.sock"
    assert knock(path, [Path("/a b/Wave.foxcard"), Path("/ü.foxshot")])
    assert came.get(timeout=20) == [Path("/a b/Wave.foxcard"), Path("/ü.foxshot")]
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert stat.S_IMODE(path.parent.stat().st_mode) & 0o077 == 0
    door.close()
    assert not path.exists()
    assert not knock(path, [Path("/a")])


def test_the_second_window_leaves_the_door_to_the_first_and_a_dead_one_is_replaced(
    door: Door, tmp_path: Path, came: queue.Queue[list[Path]]
) -> None:
    path = tmp_path / "run" / "w.sock"
    second = Door(path, lambda run: run(), lambda _: pytest.fail("it came to the second"))
    assert not second.is_open
    second.close()
    assert knock(path, [Path("/a")])
    assert came.get(timeout=20) == [Path("/a")]
    assert came.empty()  # to ask whether somebody is there brings nothing
    left = tmp_path / "left.sock"  # by a program that was killed
    dead = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
    dead.bind(str(left))
    dead.close()
    third = Door(left, lambda run: run(), came.put)
    assert third.is_open
    third.close()


@pytest.mark.parametrize(
    "line",
    [
        b"\n",
        b"{}\n",
        b'{"open": "/a"}\n',
        b'{"open": ["a"]}\n',
        b'{"open": [1]}\n',
        b'{"open": ["/a\\u0000b"]}\n',
        b"\xff\xfe\n",
        b"[" * 5000 + b"\n",
        json.dumps({"open": ["/a"] * (MOST + 1)}).encode() + b"\n",
        b'{"open": ["/' + b"a" * LONGEST + b'"]}\n',
    ],
)
def test_what_is_no_such_line_is_refused_and_the_door_stays_open(
    door: Door, tmp_path: Path, came: queue.Queue[list[Path]], line: bytes
) -> None:
    path = tmp_path / "run" / "w.sock"
    with contextlib.suppress(ConnectionError):  # it may hang up before all of it was sent
        assert said(path, line) in (b"refused\n", b"")
    assert knock(path, [Path("/still")])
    assert came.get(timeout=20) == [Path("/still")]


@given(st.binary(max_size=200))
def test_no_line_brings_anything_but_whole_paths(line: bytes) -> None:
    found = understood(line)
    assert found is None or all(p.is_absolute() for p in found)
