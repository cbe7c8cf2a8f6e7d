# SPDX-License-Identifier: Apache-2.0
"""Links a host program to Fox Hand: one file, plain Python 3.7 or newer, no packages.

Copy it into your program, fill in :class:`Host`, and call ``Link(MyHost()).start()``; then call
``pump()`` from your program's main thread, some sixty times a second (an idle event or a timer).
All functions of the host are called there and nowhere else. ``fox-hand link test`` tells what it
does right and wrong; ``docs/format/link.md`` is the protocol.
"""

from __future__ import annotations

import base64
import contextlib
import json
import os
import queue
import secrets
import socket
import struct
import threading
import time
from pathlib import Path

PROTOCOL = 1
FRAME_BEFORE = 64 * 1024  # bytes of a line before hello
FRAME = 4 * 1024 * 1024  # and afterwards
RATE = 2000  # frames in a second
BAD_FRAMES = 20  # that make no request, before the connection is closed
WATCH = 5.0  # seconds without a word after which a preview is put back
WAITING = 512  # answers and events on their way to somebody who does not read
ASKED = 256  # requests of one window that wait
PATIENCE = 2.0  # seconds for somebody who asks faster than they listen
SLOW = 1 / 12.0  # seconds for one preview

PARSE, INVALID, NO_METHOD, PARAMS, FAILED = -32700, -32600, -32601, -32602, -32000
NOT_WELCOME, VERSION, HELLO_FIRST = -32001, -32002, -32003
CHANGED, GONE, WATCHES, BUSY, CANNOT = -32010, -32011, -32012, -32013, -32014
TOO_LARGE, TOO_FAST = -32020, -32021


class RefusedError(Exception):
    """Says no to a request: raise it in a function of the host."""

    def __init__(self, message: str, code: int = FAILED, data: object = None) -> None:
        super().__init__(message)
        self.code, self.message, self.data = code, message, data


class Host:
    """What a port fills in. Values are control -> channel -> number in the program's own terms:
    ``move.x`` in its unit, ``turn.x`` in degrees, ``scale.x`` as a factor, and custom attributes by
    their names. ``can`` names what is filled in beyond the first six functions."""

    name, version = "A host", "0"
    # and undo, select, time, keys, layers, switch, picture
    can: tuple[str, ...] = ("preview", "keep")

    def scene(self) -> str:
        """The name of what is open."""
        raise NotImplementedError

    def rigs(self) -> list[dict[str, str]]:
        """Control rigs that are there: ``id`` (stays the same), ``name``, ``prefix``."""
        raise NotImplementedError

    def describe(self, rig: str) -> dict[str, object]:
        """The document of a ``.foxrig.json`` with ``nodes``, see docs/format/README.md."""
        raise NotImplementedError

    def values(self, rig: str) -> dict[str, dict[str, float]]:
        """All values of a rig now."""
        raise NotImplementedError

    def show(self, rig: str, values: dict[str, dict[str, float]]) -> None:
        """Set some values to be looked at: no undo step, no keys."""
        raise NotImplementedError

    def keep(
        self,
        rig: str,
        values: dict[str, dict[str, float]],
        name: str,
        keyed: bool,
        layer: str | None,
    ) -> list[dict[str, str]]:
        """Set some values for good, as one undo step of that name, keyed at the frame in sight or
        not; what was refused: ``control``, ``channel``, ``why``."""
        raise NotImplementedError

    def put_back(self, rig: str, values: dict[str, dict[str, float]]) -> None:
        """End what was shown: ``values`` are those it began over, of what was shown only."""
        self.show(rig, values)

    # -- as far as ``can`` says ------------------------------------------------------------

    def undo(self, rig: str, name: str) -> bool:
        """Take back the last step, if it has that name; else do nothing and say no."""
        raise NotImplementedError

    def selection(self, rig: str) -> list[str]:
        raise NotImplementedError

    def select(self, rig: str, controls: list[str]) -> None:
        raise NotImplementedError

    def time(self) -> dict[str, float]:
        """``frame``, ``first``, ``last``, ``rate``."""
        raise NotImplementedError

    def go(self, frame: float) -> None:
        raise NotImplementedError

    def keys(self, rig: str, layer: str | None) -> list[dict[str, object]]:
        """Curves: ``control``, ``channel``, ``keys`` with ``frame``, ``value``, ``ease`` (``step``,
        ``line`` or ``curve``) and for curves the handles ``in`` and ``out`` as (frames, value)."""
        raise NotImplementedError

    def set_keys(
        self, rig: str, curves: list[dict[str, object]], name: str, layer: str | None
    ) -> list[dict[str, str]]:
        """Write curves over the frames they span, as one undo step; refused as of :meth:`keep`."""
        raise NotImplementedError

    def layers(self, rig: str) -> list[dict[str, object]]:
        """``name`` and whether it is ``active``, lowest first."""
        raise NotImplementedError

    def switches(self, rig: str) -> list[dict[str, object]]:
        """Spaces, and joints or goals of limbs: ``name``, ``label``, ``options``, ``now``."""
        raise NotImplementedError

    def switch(self, rig: str, name: str, to: str) -> None:
        """Go over to another option without the figure moving; the host's own way."""
        raise NotImplementedError

    def picture(self, width: int, height: int) -> bytes:
        """The view of the host as a PNG."""
        raise NotImplementedError


def folder_of_hosts() -> Path:
    """Where sockets of hosts lie; of this person alone."""
    running = os.environ.get("XDG_RUNTIME_DIR", "")
    known = running.startswith("/") and Path(running).is_dir()
    home = Path(running) if known else Path.home() / ".local" / "state"
    return home / "fox-hand" / "hosts"


class Link:
    """A host that can be linked to: ``start``, ``pump``, ``stop``; and tell it what changed."""

    def __init__(self, host: Host, folder: Path | None = None, watch: float = WATCH) -> None:
        self.host, self.watch = host, watch
        self.token = secrets.token_hex(24)
        self.revisions: dict[str, int] = {}
        self.scene_number = 1
        self._folder = folder or folder_of_hosts()
        self.path = self._folder / f"{_plain(host.name)}-{os.getpid()}.sock"
        self._asked: queue.Queue[tuple[_Guest, dict[str, object]]] = queue.Queue()
        self._guests: list[_Guest] = []
        self._lock = threading.Lock()
        self._later: list[tuple[_Guest, dict[str, object]]] = []  # asked, but pump had no time
        self._previews: dict[str, _Preview] = {}  # by rig
        self._own: list[tuple[str, str, int]] = []  # steps made here: rig, name, revision after
        self._heard = 0.0
        self._socket: socket.socket | None = None

    # -- from the host's main thread ---------------------------------------------------------

    def start(self) -> None:
        """Listen, in a thread of its own."""
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        self._folder.chmod(0o700)
        self._sweep()
        file = os.open(f"{self.path}.token", os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(file, "w") as out:
            out.write(self.token)
        listening = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        before = os.umask(0o177)
        try:
            listening.bind(str(self.path))
        finally:
            os.umask(before)
        listening.listen(8)
        self._socket = listening
        threading.Thread(target=self._listen, args=(listening,), daemon=True).start()

    def stop(self) -> None:
        """Put previews back and hang up."""
        self._put_all_back()
        if self._socket is not None:
            with contextlib.suppress(OSError):
                self._socket.shutdown(socket.SHUT_RDWR)  # wakes who listens
            self._socket.close()
            self._socket = None
        for guest in list(self._guests):
            guest.close()
        self._sweep()

    def drop_all(self) -> None:
        """Hang up on everybody, but go on listening."""
        for guest in list(self._guests):
            guest.close()

    def pump(self, most: float = 0.02) -> None:
        """Do what was asked, for at most some seconds; put a preview back that nobody holds."""
        until, leader = time.monotonic() + most, self._leader()
        silent = time.monotonic() - self._heard > self.watch
        for rig in [r for r, p in self._previews.items() if silent or p.owner is not leader]:
            self._put_back(rig)
        waiting, self._later = self._later, []
        while True:
            try:
                waiting.append(self._asked.get_nowait())
            except queue.Empty:
                break
        newest = {}
        for number, (_, request) in enumerate(waiting):
            if request.get("method") == "show":
                newest[json.dumps(_params(request).get("rig"))] = number
        for number, (guest, request) in enumerate(waiting):
            if time.monotonic() > until and number:
                self._later = waiting[number:]
                return
            guest.counts(-1)
            if guest.gone:
                continue
            shows = request.get("method") == "show"
            old = shows and newest[json.dumps(_params(request).get("rig"))] != number
            self._answer(guest, request, old=old)

    @property
    def guests(self) -> list[str]:
        """Names of those who are linked; the first of them leads."""
        with self._lock:
            return [guest.name for guest in self._guests]

    def end_previews(self) -> None:
        """Put back what is shown: the host is about to go to another frame, or to undo."""
        self._put_all_back()

    def rigs_changed(self) -> None:
        """Rigs came or went, or have other controls."""
        self._tell("rigs", {"rigs": self._rigs()})

    def changed(self, rig: str) -> None:
        """Values of a rig changed, but not by what is asked here."""
        self.revisions[rig] = self.revisions.get(rig, 1) + 1
        self._tell("values", {"rig": rig, "revision": self.revisions[rig]})

    def selected(self, rig: str) -> None:
        """Other controls are selected."""
        self._tell("selection", {"rig": rig, "controls": self.host.selection(rig)})

    def moved_in_time(self) -> None:
        """Another frame is in sight, or the range is another."""
        self._tell("time", dict(self.host.time()))

    def scene_changed(self, what: str) -> None:
        """Another scene was ``opened``, or it was ``changed`` or ``undone`` as a whole."""
        self.scene_number += 1
        self._previews.clear()  # what lies there now is the truth
        del self._own[:]
        for rig in self.host.rigs():
            self.revisions[rig["id"]] = self.revisions.get(rig["id"], 1) + 1
        facts = {"what": what, "number": self.scene_number, "name": self.host.scene()}
        self._tell("scene", dict(facts, rigs=self._rigs()))

    # -- requests ------------------------------------------------------------------------------

    def _answer(self, guest: _Guest, request: dict[str, object], *, old: bool) -> None:
        number = request.get("id")
        try:
            result = self._done(guest, str(request["method"]), _params(request), old=old)
        except RefusedError as no:
            guest.error(number, no.code, no.message, no.data)
        except NotImplementedError:
            guest.error(number, CANNOT, "this host cannot do that")
        except Exception as error:  # noqa: BLE001 - whatever a port does wrong, the link goes on
            guest.error(number, FAILED, f"{type(error).__name__}: {error}")
        else:
            guest.result(number, result)

    def _done(
        self, guest: _Guest, method: str, params: dict[str, object], *, old: bool
    ) -> dict[str, object]:
        if method not in METHODS:
            raise RefusedError(f"there is no {method[:40]}", NO_METHOD)
        wanted, leads = METHODS[method]
        if wanted and wanted not in self.host.can:
            raise RefusedError("this host cannot do that", CANNOT)
        if leads and guest is not self._leader():
            raise RefusedError("another window leads", WATCHES)
        if guest is self._leader():
            self._heard = time.monotonic()
        if old:
            return {"skipped": True, "number": params.get("number", 0)}
        return dict(getattr(self, "_do_" + method)(params))

    def _do_still(self, _: dict[str, object]) -> dict[str, object]:
        return {}

    def _do_rigs(self, _: dict[str, object]) -> dict[str, object]:
        return {"rigs": self._rigs()}

    def _do_describe(self, params: dict[str, object]) -> dict[str, object]:
        rig = self._rig(params)
        return {"rig": self.host.describe(rig), "revision": self.revisions.get(rig, 1)}

    def _do_values(self, params: dict[str, object]) -> dict[str, object]:
        rig = self._rig(params)
        values, preview = dict(self.host.values(rig)), self._previews.get(rig)
        if preview is not None:
            for control, channels in preview.over.items():
                values[control] = dict(values.get(control, {}), **channels)
        return {"values": values, "revision": self.revisions.get(rig, 1)}

    def _do_selection(self, params: dict[str, object]) -> dict[str, object]:
        return {"controls": self.host.selection(self._rig(params))}

    def _do_select(self, params: dict[str, object]) -> dict[str, object]:
        self.host.select(self._rig(params), _names(params.get("controls")))
        return {}

    def _do_time(self, _: dict[str, object]) -> dict[str, object]:
        return dict(self.host.time())

    def _do_go(self, params: dict[str, object]) -> dict[str, object]:
        self._put_all_back()  # a preview lies over one frame
        self.host.go(_number(params.get("frame")))
        return dict(self.host.time())

    def _do_show(self, params: dict[str, object]) -> dict[str, object]:
        rig, values = self._rig(params), _values(params.get("values"))
        self._unchanged(rig, params)
        preview, leader = self._previews.get(rig), self._leader()
        if preview is None:
            preview = self._previews[rig] = _Preview(leader, self.host.values(rig))
        preview.shows(values)
        began = time.monotonic()
        self.host.show(rig, values)
        took = time.monotonic() - began
        facts = {"number": params.get("number", 0), "revision": self.revisions.get(rig, 1)}
        return dict(facts, took=round(took * 1000, 1), slow=took > SLOW)

    def _do_put_back(self, params: dict[str, object]) -> dict[str, object]:
        rig = self._rig(params)
        self._put_back(rig)
        return {"revision": self.revisions.get(rig, 1)}

    def _do_keep(self, params: dict[str, object]) -> dict[str, object]:
        rig, values = self._rig(params), _values(params.get("values"))
        name, layer = str(params.get("name") or "Fox Hand"), _layer(params)
        self._unchanged(rig, params)
        self._put_back(rig)
        if not any(values.values()):
            return {"revision": self.revisions[rig], "refused": []}  # no step for nothing
        refused = self.host.keep(rig, values, name, bool(params.get("keyed")), layer)
        self.changed(rig)
        self._remember(rig, name)
        return {"revision": self.revisions[rig], "refused": refused}

    def _do_undo(self, params: dict[str, object]) -> dict[str, object]:
        """Only what was done here last, and nothing came after it."""
        rig, name = self._rig(params), str(params.get("name"))
        self._unchanged(rig, params)
        self._put_back(rig)
        last = self._own[-1] if self._own else None
        if last != (rig, name, self.revisions[rig]) or not self.host.undo(rig, name):
            raise RefusedError("the last step is another")
        self._own.pop()
        self.changed(rig)
        for number in range(len(self._own) - 1, -1, -1):
            if self._own[number][0] == rig:  # nothing came between it and what is undone now
                if self._own[number][2] == last[2] - 1:
                    self._own[number] = (rig, self._own[number][1], self.revisions[rig])
                break
        return {"revision": self.revisions[rig], "refused": []}

    def _remember(self, rig: str, name: str) -> None:
        self._own = self._own[-ASKED:] + [(rig, name, self.revisions[rig])]

    def _do_keys(self, params: dict[str, object]) -> dict[str, object]:
        rig = self._rig(params)
        return {
            "curves": self.host.keys(rig, _layer(params)),
            "revision": self.revisions.get(rig, 1),
        }

    def _do_set_keys(self, params: dict[str, object]) -> dict[str, object]:
        rig, curves = self._rig(params), params.get("curves")
        if not isinstance(curves, list):
            raise RefusedError("curves are a list", PARAMS)
        self._unchanged(rig, params)
        self._put_back(rig)
        if not curves:
            return {"revision": self.revisions[rig], "refused": []}
        name = str(params.get("name") or "Fox Hand")
        refused = self.host.set_keys(rig, curves, name, _layer(params))
        self.changed(rig)
        self._remember(rig, name)
        return {"revision": self.revisions[rig], "refused": refused}

    def _do_layers(self, params: dict[str, object]) -> dict[str, object]:
        return {"layers": self.host.layers(self._rig(params))}

    def _do_switches(self, params: dict[str, object]) -> dict[str, object]:
        return {"switches": self.host.switches(self._rig(params))}

    def _do_switch(self, params: dict[str, object]) -> dict[str, object]:
        rig = self._rig(params)
        self._put_back(rig)
        self.host.switch(rig, str(params.get("name")), str(params.get("to")))
        self.changed(rig)
        return {"revision": self.revisions[rig]}

    def _do_picture(self, params: dict[str, object]) -> dict[str, object]:
        width, height = (int(_number(params.get(side))) for side in ("width", "height"))
        if not (16 <= width <= 2048 and 16 <= height <= 2048):
            raise RefusedError("a side has 16 to 2048 pixels", PARAMS)
        return {"png": base64.b64encode(self.host.picture(width, height)).decode("ascii")}

    # -- inner ---------------------------------------------------------------------------------

    def _sweep(self) -> None:
        for path in (self.path, Path(f"{self.path}.token")):
            with contextlib.suppress(FileNotFoundError):
                path.unlink()

    def _rigs(self) -> list[dict[str, object]]:
        found = self.host.rigs()
        return [dict(rig, revision=self.revisions.setdefault(rig["id"], 1)) for rig in found]

    def _rig(self, params: dict[str, object]) -> str:
        wanted = params.get("rig")
        if not isinstance(wanted, str) or wanted not in [rig["id"] for rig in self.host.rigs()]:
            raise RefusedError("there is no such rig", GONE)
        return wanted

    def _unchanged(self, rig: str, params: dict[str, object]) -> None:
        now = self.revisions.setdefault(rig, 1)
        if params.get("revision") != now:
            raise RefusedError("the rig changed meanwhile", CHANGED, {"revision": now})

    def _put_back(self, rig: str) -> None:
        preview = self._previews.pop(rig, None)
        if preview is not None:
            self.host.put_back(rig, preview.over)

    def _put_all_back(self) -> None:
        for rig in list(self._previews):
            self._put_back(rig)

    def _leader(self) -> _Guest | None:
        with self._lock:
            return self._guests[0] if self._guests else None

    def _tell(self, method: str, params: dict[str, object]) -> None:
        with self._lock:
            guests = list(self._guests)
        for guest in guests:
            guest.send({"jsonrpc": "2.0", "method": method, "params": params})

    def _listen(self, listening: socket.socket) -> None:
        while True:
            try:
                connection, _ = listening.accept()
            except OSError:
                return  # it was closed
            if _uid(connection) not in (None, os.getuid()):
                connection.close()
                continue
            threading.Thread(target=_Guest(self, connection).read, daemon=True).start()

    def welcome(self, guest: _Guest, params: dict[str, object]) -> dict[str, object]:
        """Let somebody in who has the token; the first of them leads."""
        said = str(params.get("token")).encode("utf-8", "replace")
        if not secrets.compare_digest(said, self.token.encode("ascii")):
            raise RefusedError("not welcome", NOT_WELCOME)
        known = params.get("protocol")
        if not isinstance(known, list) or PROTOCOL not in known:
            raise RefusedError(f"this host speaks protocol {PROTOCOL}", VERSION)
        client = params.get("client")
        guest.name = str(client.get("name"))[:40] if isinstance(client, dict) else ""
        with self._lock:
            self._guests.append(guest)
            leads = self._guests[0] is guest
        return {
            "protocol": PROTOCOL,
            "host": {"name": self.host.name, "version": self.host.version},
            "scene": {"name": self.host.scene(), "number": self.scene_number},
            "can": list(self.host.can),
            "limits": {"frame": FRAME, "rate": RATE, "watch": self.watch},
            "role": "leads" if leads else "watches",
        }

    def goodbye(self, guest: _Guest) -> None:
        """Somebody hung up; the next one leads. What they showed is put back by ``pump``."""
        guest.gone = True
        with self._lock:
            led = bool(self._guests) and self._guests[0] is guest
            if guest in self._guests:
                self._guests.remove(guest)
            following = self._guests[0] if led and self._guests else None
        if led:
            self._heard = float("-inf")
        if following is not None:
            following.send({"jsonrpc": "2.0", "method": "role", "params": {"role": "leads"}})

    def ask(self, guest: _Guest, request: dict[str, object]) -> None:
        """Put a request where ``pump`` finds it."""
        if guest.counts(1) > ASKED:
            guest.counts(-1)
            guest.error(request.get("id"), BUSY, "too much is waiting", patience=PATIENCE)
        else:
            self._asked.put((guest, request))


# what each request needs of ``can``, and whether only the window that leads may ask it
METHODS = {
    "still": ("", False),
    "rigs": ("", False),
    "describe": ("", False),
    "values": ("", False),
    "selection": ("select", False),
    "select": ("select", True),
    "time": ("time", False),
    "go": ("time", True),
    "show": ("preview", True),
    "put_back": ("preview", True),
    "keep": ("keep", True),
    "undo": ("undo", True),
    "keys": ("keys", False),
    "set_keys": ("keys", True),
    "layers": ("layers", False),
    "switches": ("switch", False),
    "switch": ("switch", True),
    "picture": ("picture", False),
}


class _Preview:
    """Something that is shown over a rig: by whom, and what was there before."""

    def __init__(self, owner: _Guest | None, before: dict[str, dict[str, float]]) -> None:
        self.owner, self._before = owner, before
        self.over: dict[str, dict[str, float]] = {}

    def shows(self, values: dict[str, dict[str, float]]) -> None:
        for control, channels in values.items():
            before = self._before.get(control, {})
            for channel in channels:
                if channel in before:
                    self.over.setdefault(control, {})[channel] = before[channel]


class _Guest:
    """One connection: reads in its own thread, writes in another."""

    def __init__(self, link: Link, connection: socket.socket) -> None:
        self._link, self._connection, self.name = link, connection, ""
        self._out: queue.Queue[bytes | None] = queue.Queue(WAITING)
        self._in, self._bad = False, 0
        self._asked, self.gone = 0, False
        self._counting = threading.Lock()
        threading.Thread(target=self._write, daemon=True).start()

    def counts(self, change: int) -> int:
        """How many requests of this window wait, after one came or was done."""
        with self._counting:
            self._asked += change
            return self._asked

    def send(self, message: dict[str, object], patience: float = 0.0) -> None:
        """Put a frame on its way; the thread that reads may wait for whoever asks faster than it
        listens."""
        data = json.dumps(message, allow_nan=False, separators=(",", ":")).encode("utf-8") + b"\n"
        try:
            self._out.put(data, block=patience > 0, timeout=patience or None)
        except queue.Full:  # who does not read is not there
            self.close()

    def result(self, number: object, result: dict[str, object]) -> None:
        if number is not None:
            self.send({"jsonrpc": "2.0", "id": number, "result": result})

    def error(
        self,
        number: object,
        code: int,
        message: str,
        data: object = None,
        patience: float = 0.0,
    ) -> None:
        error: dict[str, object] = {"code": code, "message": message}
        if data is not None:
            error["data"] = data
        self.send({"jsonrpc": "2.0", "id": number, "error": error}, patience)

    def close(self) -> None:
        with contextlib.suppress(OSError):
            self._connection.shutdown(socket.SHUT_RDWR)
        self._connection.close()

    def read(self) -> None:
        """Take frames until somebody hangs up or does what nobody should."""
        waiting, count, second = b"", 0, time.monotonic()
        try:
            while True:
                data = self._connection.recv(1 << 16)
                if not data:
                    break
                lines = (waiting + data).split(b"\n")
                waiting = lines.pop()
                if time.monotonic() - second >= 1:
                    count, second = 0, time.monotonic()
                count += len(lines)
                if count > RATE:
                    self._hang_up(TOO_FAST, "too many frames in a second")
                    break
                largest = max([len(waiting)] + [len(line) for line in lines])
                if largest > (FRAME if self._in else FRAME_BEFORE):
                    self._hang_up(TOO_LARGE, "a frame is too large")
                    break
                if not all(self._take(line) for line in lines):
                    break
        except OSError:
            pass
        finally:
            self._link.goodbye(self)
            try:
                self._out.put_nowait(None)
            except queue.Full:
                self.close()

    def _hang_up(self, code: int, message: str) -> None:
        """Say why, and listen a little longer: an answer is lost where something lies unread."""
        self.error(None, code, message, patience=PATIENCE)
        until = time.monotonic() + 1.0
        self._connection.settimeout(0.2)
        while time.monotonic() < until and self._connection.recv(1 << 16):
            pass

    def _take(self, line: bytes) -> bool:
        """One frame; whether the connection stays."""
        try:
            request = json.loads(line.decode("utf-8"), parse_constant=_no_number)
        except (ValueError, RecursionError):
            return self._wrong(None, PARSE, "this is no JSON")
        named = isinstance(request, dict) and isinstance(request.get("method"), str)
        number = request.get("id") if isinstance(request, dict) else None
        if not named or request.get("jsonrpc") != "2.0" or not isinstance(number, (int, str)):
            return self._wrong(None, INVALID, "this is no request")
        if not isinstance(request.get("params", {}), dict):
            return self._wrong(number, PARAMS, "parameters have names")
        if request["method"] == "hello":
            try:
                if self._in:
                    raise RefusedError("hello was said already", INVALID)
                self.result(number, self._link.welcome(self, _params(request)))
                self._in = True
            except RefusedError as no:
                self.error(number, no.code, no.message)
                return self._in
            return True
        if not self._in:
            self.error(number, HELLO_FIRST, "hello comes first")
            return False
        self._link.ask(self, request)
        return True

    def _wrong(self, number: object, code: int, message: str) -> bool:
        self._bad += 1
        self.error(number, code, message, patience=PATIENCE)
        return self._in and self._bad < BAD_FRAMES

    def _write(self) -> None:
        while True:
            data = self._out.get()
            if data is None:
                self.close()
                return
            try:
                self._connection.sendall(data)
            except OSError:
                self.close()
                return


def _params(request: dict[str, object]) -> dict[str, object]:
    params = request.get("params", {})
    return params if isinstance(params, dict) else {}


def _no_number(word: str) -> float:
    raise ValueError(f"{word} is no JSON")


def _number(value: object) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)) or abs(value) > 1e12:
        raise RefusedError("a number was wanted", PARAMS)
    return float(value)


def _names(value: object) -> list[str]:
    if not isinstance(value, list) or not all(isinstance(name, str) for name in value):
        raise RefusedError("a list of names was wanted", PARAMS)
    return value


def _values(value: object) -> dict[str, dict[str, float]]:
    if not isinstance(value, dict) or not all(isinstance(v, dict) for v in value.values()):
        raise RefusedError("values are control -> channel -> number", PARAMS)
    return {c: {k: _number(v) for k, v in held.items()} for c, held in value.items()}


def _layer(params: dict[str, object]) -> str | None:
    layer = params.get("layer")
    if layer is not None and not isinstance(layer, str):
        raise RefusedError("a layer has a name", PARAMS)
    return layer


def _plain(name: str) -> str:
    return "".join(c if c.isalnum() else "-" for c in name.lower())[:40] or "host"


def _uid(connection: socket.socket) -> int | None:
    """Who is at the other end; None where the system does not say."""
    if not hasattr(socket, "SO_PEERCRED"):
        return None
    found = connection.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, struct.calcsize("3i"))
    return int(struct.unpack("3i", found)[1])
