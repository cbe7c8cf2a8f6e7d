"""Our end of a link: asks a host, and hears what it tells. JSON-RPC 2.0, a line for each frame,
over a Unix socket; the protocol is in ``docs/format/link.md``."""

from __future__ import annotations

import contextlib
import itertools
import json
import os
import socket
import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_json
from fox_hand.base.language import tr
from fox_hand.interchange.link.fox_hand_link import PROTOCOL, folder_of_hosts

FRAME = 16 << 20  # bytes of a line that a host may send us
GLANCE = 0.2  # seconds for somebody who listens to say so
PATIENCE = 6.0  # seconds for an answer; a busy machine takes its time
Params = Mapping[str, Any]
Heard = Callable[[str, dict[str, Any]], None]


class LinkError(FoxHandError):
    """A host said no, said nothing, or is gone.

    Args:
        happened: in a sentence.
        number: the host's code; 0 where it said none.
        data: what it said besides.
    """

    def __init__(self, happened: str, number: int = 0, data: object = None) -> None:
        super().__init__("link.refused" if number else "link.lost", happened)
        self.number, self.data = number, data


@dataclass(frozen=True)
class HostFacts:
    """What a host says of itself.

    Args:
        name, version: of the program.
        scene: name of what is open.
        can: what it can do beyond the least.
        leads: whether we may change anything; else another window does.
        watch: seconds without a word after which it puts a preview back.
    """

    name: str
    version: str
    scene: str
    can: frozenset[str]
    leads: bool
    watch: float


def sockets() -> list[Path]:
    """Sockets of the hosts of this person, those that were started last first."""
    folder = folder_of_hosts()
    with contextlib.suppress(OSError):
        found = [p for p in folder.iterdir() if p.suffix == ".sock"]
        return sorted(found, key=lambda p: -p.stat().st_mtime)
    return []


def hosts() -> list[Path]:
    """Those of the sockets at which somebody listens."""
    return [path for path in sockets() if _listens(path)]


def _listens(path: Path) -> bool:
    """Sockets of programs that were killed stay behind, and refuse at once."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as one:
        one.settimeout(GLANCE)
        try:
            one.connect(str(path))
        except OSError:
            return False
    return True


class Connection:
    """A link that is open. Questions may be asked on any thread; they wait for their answers.

    Args:
        path: the host's socket; its token lies beside it.
        heard: is told what the host tells, on a thread of the link.
        lost: is told once that the link is gone, on that thread.
        name, version: of ours, for the host to show.

    Raises:
        LinkError: if nobody listens there, or does not let us in.
    """

    def __init__(
        self,
        path: Path,
        heard: Heard = lambda _method, _params: None,
        lost: Callable[[], None] = lambda: None,
        *,
        name: str = "Fox Hand",
        version: str = "",
    ) -> None:
        self.path, self._heard, self._lost = path, heard, lost
        self._numbers = itertools.count(1)
        self._waiting: dict[int, _Answer] = {}
        self._lock, self._writing = threading.Lock(), threading.Lock()
        self._closed = False
        self._socket = _connected(path)
        self._thread = threading.Thread(target=self._read, name="link", daemon=True)
        self._thread.start()
        client = {"name": name, "version": version, "pid": os.getpid()}
        hello = {"token": _token(path), "protocol": [PROTOCOL], "client": client}
        try:
            self.host = _facts(self.ask("hello", hello))
        except LinkError:
            self.close()
            raise

    def ask(self, method: str, params: Params | None = None, patience: float = PATIENCE) -> Any:
        """Ask, and wait for the answer.

        Raises:
            LinkError: what the host says against it; or it is gone, or says nothing for so long.
        """
        return self.begin(method, params).result(patience)

    def begin(self, method: str, params: Params | None = None) -> _Answer:
        """Ask, and go on; whoever wants the answer waits for it."""
        number, answer = next(self._numbers), _Answer()
        with self._lock:
            if self._closed:
                raise LinkError(tr("The link is gone."))
            self._waiting[number] = answer
        frame = {"jsonrpc": "2.0", "id": number, "method": method, "params": dict(params or {})}
        data = json.dumps(frame, allow_nan=False, separators=(",", ":")).encode() + b"\n"
        try:
            with self._writing:
                self._socket.sendall(data)
        except OSError:
            self._end()
        return answer

    def close(self) -> None:
        """Hang up; the host puts back what is shown."""
        self._lost = lambda: None
        self._end()

    @property
    def closed(self) -> bool:
        return self._closed

    # -- inner ----------------------------------------------------------------------------

    def _read(self) -> None:
        waiting = bytearray()
        while True:
            try:
                data = self._socket.recv(1 << 16)
            except OSError:
                break
            if not data or len(waiting) > FRAME:
                break
            waiting += data
            if b"\n" not in data:
                continue
            *lines, rest = waiting.split(b"\n")
            waiting = bytearray(rest)
            if not all(self._take(bytes(line)) for line in lines):
                break  # a host that speaks otherwise is none
        self._end()

    def _take(self, line: bytes) -> bool:
        try:
            frame = decode_json(line, dict[str, Any])
        except (ValueError, RecursionError):
            return False
        method, params = frame.get("method"), frame.get("params")
        if isinstance(method, str) and isinstance(params, dict):
            self._heard(method, params)
            return True
        with self._lock:
            number = frame.get("id")
            answer = self._waiting.pop(number, None) if isinstance(number, int) else None
        if answer is not None:
            answer.take(frame)
        return True

    def _end(self) -> None:
        with self._lock:
            first, self._closed = not self._closed, True
            waiting, self._waiting = list(self._waiting.values()), {}
        with contextlib.suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)
        self._socket.close()
        for answer in waiting:
            answer.take(None)
        if first:
            self._lost()


class _Answer:
    """An answer that is on its way."""

    def __init__(self) -> None:
        self._there = threading.Event()
        self._frame: dict[str, Any] | None = None

    def take(self, frame: dict[str, Any] | None) -> None:
        self._frame = frame
        self._there.set()

    @property
    def done(self) -> bool:
        return self._there.is_set()

    def result(self, patience: float = PATIENCE) -> Any:
        """What was answered.

        Raises:
            LinkError: as :meth:`Connection.ask`.
        """
        if not self._there.wait(patience):
            raise LinkError(tr("The host does not answer."))
        if self._frame is None:
            raise LinkError(tr("The link is gone."))
        error = self._frame.get("error")
        if isinstance(error, dict):
            number = error.get("code")
            said = str(error.get("message", ""))[:200]
            code = number if isinstance(number, int) else -1
            raise LinkError(tr("The host says: {said}.", said=said), code, error.get("data"))
        return self._frame.get("result")


def _connected(path: Path) -> socket.socket:
    found = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
    try:
        found.settimeout(PATIENCE)
        found.connect(str(path))
        found.settimeout(None)
    except OSError as error:
        found.close()
        raise LinkError(tr("Nobody answers at {name}.", name=path.name)) from error
    return found


def _token(path: Path) -> str:
    try:
        return Path(f"{path}.token").read_text("ascii").strip()
    except (OSError, ValueError):
        return ""  # the host says what it thinks of that


def _facts(said: Any) -> HostFacts:
    """What hello gave.

    Raises:
        LinkError: if that makes no sense.
    """
    try:
        host, limits = said["host"], said["limits"]
        if said["protocol"] != PROTOCOL:
            raise LinkError(tr("The host speaks another protocol."))
        return HostFacts(
            str(host["name"])[:80],
            str(host["version"])[:40],
            str(said["scene"]["name"])[:120],
            frozenset(map(str, said["can"])),
            said["role"] == "leads",
            float(limits["watch"]),
        )
    except (KeyError, TypeError, ValueError) as error:
        raise LinkError(tr("The host says hello in a way that is not understood.")) from error
