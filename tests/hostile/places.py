"""What is no file where a file should be: pipes, devices, folders, links in circles, holes."""

from __future__ import annotations

import os
import socket
from collections.abc import Callable
from pathlib import Path


def _socket(path: Path) -> None:
    here = Path.cwd()
    os.chdir(path.parent)  # a socket's name is at most a hundred bytes long
    with socket.socket(socket.AF_UNIX) as one:
        one.bind(path.name)
    os.chdir(here)


def _hole(path: Path) -> None:
    with path.open("wb") as file:
        file.truncate(10 << 30)


PLACES: dict[str, Callable[[Path], object]] = {
    "a pipe": os.mkfifo,
    "a folder": Path.mkdir,
    "a socket": _socket,
    "a circle": lambda path: path.symlink_to(path.name),
    "nowhere": lambda path: path.symlink_to("not there"),
    "zeros without end": lambda path: path.symlink_to("/dev/zero"),
    "noise without end": lambda path: path.symlink_to("/dev/urandom"),
    "the terminal": lambda path: path.symlink_to("/dev/tty"),
    "ten gigabytes of nothing": _hole,
}
