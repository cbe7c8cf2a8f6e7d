"""What a host does right and wrong: for whoever ports the adapter."""

from __future__ import annotations

import contextlib
import json
import math
import socket
import statistics
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.interchange.described import rig_of
from fox_hand.interchange.link.connection import Connection, LinkError
from fox_hand.interchange.link.findings import (
    Finding,
    WrongError,
    channels_of,
    expect,
    expect_no,
    tried,
)
from fox_hand.interchange.link.fox_hand_link import (
    CHANGED,
    GONE,
    HELLO_FIRST,
    NO_METHOD,
    NOT_WELCOME,
    PARSE,
    WATCHES,
)
from fox_hand.interchange.link.self_test_more import more_of_host, more_of_rig
from fox_hand.interchange.sidecar import Sidecar

PREVIEWS, QUICK = 30, 33.0  # milliseconds


def findings(path: Path) -> Iterator[Finding]:
    """Try everything at the host of a socket; its scene is left as it was, with two more steps to
    undo."""
    yield tried(tr("Nobody is let in without the token"), lambda: _stranger(path))
    yield tried(tr("Nothing is answered before hello"), lambda: _before_hello(path))
    try:
        link = Connection(path, name="fox-hand link test")
    except LinkError as error:
        yield Finding(tr("Hello is answered"), False, error.happened)
        return
    with contextlib.closing(link):
        yield Finding(tr("Hello is answered"), True, f"{link.host.name} {link.host.version}")
        yield Finding(tr("The first window leads"), link.host.leads)
        yield tried(tr("What is no JSON is said, and the link goes on"), lambda: _no_json(path))
        yield tried(tr("Unknown requests and rigs are refused"), lambda: _unknown(link))
        rigs = list(_rigs(link))
        yield Finding(tr("There are rigs with ids of their own"), bool(rigs), str(len(rigs)))
        for rig in rigs:
            yield from _of_rig(path, link, rig)
            yield from more_of_rig(link, rig)
        yield from more_of_host(link)


def _of_rig(path: Path, link: Connection, rig: str) -> Iterator[Finding]:
    yield tried(tr("{rig}: the description makes a rig", rig=rig), lambda: _described(link, rig))
    yield tried(tr("{rig}: every channel has a value", rig=rig), lambda: _valued(link, rig))
    if "preview" in link.host.can:
        yield tried(tr("{rig}: put back to the bit", rig=rig), lambda: _put_back(link, rig))
        yield tried(tr("{rig}: thirty previews a second", rig=rig), lambda: _quick(link, rig))
        yield tried(
            tr("{rig}: a second window watches, and cannot change", rig=rig),
            lambda: _second(path, rig),
        )
    if "keep" in link.host.can:
        yield tried(tr("{rig}: kept is kept", rig=rig), lambda: _kept(link, rig))
        yield tried(
            tr("{rig}: an old revision is refused", rig=rig), lambda: _old_revision(link, rig)
        )
    if "keys" in link.host.can:
        yield tried(tr("{rig}: curves are there", rig=rig), lambda: _curves(link, rig))


def _talked(path: Path, *frames: bytes) -> list[dict[str, Any]]:
    """What comes back for raw frames."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as raw:
        raw.settimeout(2.0)
        raw.connect(str(path))
        raw.sendall(b"".join(frame + b"\n" for frame in frames))
        data = b""
        with contextlib.suppress(OSError):
            while data.count(b"\n") < len(frames) and (more := raw.recv(1 << 16)):
                data += more
    return [json.loads(line) for line in data.splitlines()]


def _asked(method: str, **params: object) -> bytes:
    frame = {"jsonrpc": "2.0", "id": 1, "method": method, "params": params}
    return json.dumps(frame).encode()


def _stranger(path: Path) -> str:
    (answer,) = _talked(path, _asked("hello", token="guessed", protocol=[1], client={}))
    expect(answer["error"]["code"] == NOT_WELCOME, tr("it was let in"))
    return ""


def _before_hello(path: Path) -> str:
    (answer,) = _talked(path, _asked("rigs"))
    expect(answer["error"]["code"] == HELLO_FIRST, tr("it was answered"))
    return ""


def _no_json(path: Path) -> str:
    token = Path(f"{path}.token").read_text("ascii").strip()
    hello = _asked("hello", token=token, protocol=[1], client={})
    answers = _talked(path, hello, b"{no", _asked("still"))
    expect(answers[1]["error"]["code"] == PARSE, tr("nothing was said of it"))
    expect(len(answers) == 3 and "result" in answers[2], tr("the link was gone"))
    return ""


def _unknown(link: Connection) -> str:
    expect_no(NO_METHOD, lambda: link.ask("dance"))
    expect_no(GONE, lambda: link.ask("values", {"rig": "no such rig"}))
    return ""


def _rigs(link: Connection) -> Iterator[str]:
    with contextlib.suppress(LinkError, KeyError, TypeError):
        yield from dict.fromkeys(str(rig["id"]) for rig in link.ask("rigs")["rigs"])


def _described(link: Connection, rig: str) -> str:
    document = link.ask("describe", {"rig": rig})["rig"]
    try:
        made = rig_of(msgspec.convert(document, Sidecar), rig, link.path)
    except FoxHandError as error:
        raise WrongError(error.happened) from error
    return tr("{count} controls", count=len(made.controls))


def _valued(link: Connection, rig: str) -> str:
    document = link.ask("describe", {"rig": rig})["rig"]
    values, _ = channels_of(link, rig)
    for name, notes in document.get("controls", {}).items():
        wanted = [f"{kind}.{a}" for kind in notes.get("channels", ()) for a in "xyz"]
        for channel in [*wanted, *notes.get("settings", ())]:
            value = values.get(name, {}).get(channel)
            expect(value is not None and math.isfinite(value), f"{name} {channel}")
    return tr("{count} channels", count=sum(map(len, values.values())))


def _some(values: dict[str, dict[str, float]], add: float) -> dict[str, dict[str, float]]:
    """Other values for the turns of up to a hundred controls."""
    flat = [(c, k, v) for c, held in values.items() for k, v in held.items() if "turn" in k]
    found: dict[str, dict[str, float]] = {}
    for control, channel, value in flat[:300]:
        found.setdefault(control, {})[channel] = value + add
    return found


def _put_back(link: Connection, rig: str) -> str:
    before, revision = channels_of(link, rig)
    for number in range(5):
        shown = _some(before, 1.0 + number / 3)
        link.ask("show", {"rig": rig, "revision": revision, "values": shown, "number": number})
    link.ask("put_back", {"rig": rig})
    after, again = channels_of(link, rig)
    expect(after == before, tr("other values were there afterwards"))
    expect(again == revision, tr("the revision grew, though nothing was kept"))
    return ""


def _quick(link: Connection, rig: str) -> str:
    before, revision = channels_of(link, rig)
    took = []
    for number in range(PREVIEWS):
        shown = _some(before, number / 10)
        start = time.perf_counter()
        asked = {"rig": rig, "revision": revision, "values": shown, "number": number}
        answer = link.ask("show", asked)
        took.append((time.perf_counter() - start) * 1000)
    link.ask("put_back", {"rig": rig})
    middle = statistics.median(took)
    slow = bool(answer.get("slow"))
    expect(middle <= QUICK or slow, tr("{middle:.0f} ms, and it does not say so", middle=middle))
    said = tr("{middle:.1f} ms each", middle=middle)
    return tr("{said}, it says that it is slow", said=said) if slow else said


def _second(path: Path, rig: str) -> str:
    with contextlib.closing(Connection(path, name="fox-hand link test")) as other:
        expect(not other.host.leads, tr("it leads as well"))
        values, revision = channels_of(other, rig)
        asked = {"rig": rig, "revision": revision, "values": _some(values, 1.0), "number": 0}
        expect_no(WATCHES, lambda: other.ask("show", asked))
    return ""


def _kept(link: Connection, rig: str) -> str:
    before, revision = channels_of(link, rig)
    control, held = next((c, h) for c, h in before.items() if h)
    channel, value = next(iter(held.items()))
    for wanted in (value + 0.25, value):
        said = link.ask(
            "keep",
            {
                "rig": rig,
                "revision": revision,
                "values": {control: {channel: wanted}},
                "name": "fox-hand link test",
                "keyed": False,
            },
        )
        after, revision = channels_of(link, rig)
        expect(said["revision"] == revision, tr("it says another revision than the rig has"))
        if said.get("refused"):
            return tr("refused: {why}", why=said["refused"][0].get("why", ""))
        found = after[control][channel]
        expect(abs(found - wanted) < 1e-9, f"{control} {channel}: {found} / {wanted}")
    return ""


def _old_revision(link: Connection, rig: str) -> str:
    values, revision = channels_of(link, rig)
    asked = {"rig": rig, "values": _some(values, 1.0), "name": "no", "keyed": False}
    expect_no(CHANGED, lambda: link.ask("keep", {**asked, "revision": revision - 1}))
    after, again = channels_of(link, rig)
    expect((after, again) == (values, revision), tr("it was written all the same"))
    return ""


def _curves(link: Connection, rig: str) -> str:
    curves = link.ask("keys", {"rig": rig})["curves"]
    for curve in curves:
        frames = [float(key["frame"]) for key in curve["keys"]]
        expect(frames == sorted(frames), tr("keys are not in the order of their frames"))
        expect(all(math.isfinite(float(k["value"])) for k in curve["keys"]), curve["channel"])
    return tr("{count} curves", count=len(curves))
