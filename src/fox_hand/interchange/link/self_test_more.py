"""What a host does right and wrong beyond values: undo, curves, time, its picture."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from typing import Any

from fox_hand.base.language import tr
from fox_hand.interchange.link.connection import Connection
from fox_hand.interchange.link.findings import (
    Finding,
    channels_of,
    expect,
    expect_no,
    tried,
)
from fox_hand.interchange.link.fox_hand_link import FAILED

NAME = "fox-hand link test"
SIDE = 64  # pixels
DRAWN_IN = 30.0  # seconds for a first picture: what draws may have to be started
PNG = b"\x89PNG\r\n\x1a\n"


def more_of_rig(link: Connection, rig: str) -> Iterator[Finding]:
    """About one rig; what is written is taken back."""
    can = link.host.can
    if {"keep", "undo"} <= can:
        yield tried(tr("{rig}: its last step is taken back", rig=rig), lambda: _undone(link, rig))
    if {"keys", "undo"} <= can:
        yield tried(tr("{rig}: curves are kept as written", rig=rig), lambda: _curve(link, rig))


def more_of_host(link: Connection) -> Iterator[Finding]:
    """About the host as a whole."""
    if "time" in link.host.can:
        yield tried(tr("It goes to another frame and back"), lambda: _time(link))
    if "picture" in link.host.can:
        yield tried(tr("Its picture is a PNG of the size that was asked for"), lambda: _png(link))


def _undone(link: Connection, rig: str) -> str:
    before, revision = channels_of(link, rig)
    control, held = next((c, h) for c, h in before.items() if h)
    channel, value = next(iter(held.items()))
    about = {"rig": rig, "name": NAME}
    values = {control: {channel: value + 0.25}}
    kept = link.ask("keep", {**about, "revision": revision, "values": values, "keyed": True})
    _refuse_another(link, {**about, "revision": kept["revision"]})
    link.ask("undo", {**about, "revision": kept["revision"]})
    after, _ = channels_of(link, rig)
    expect(after == before, tr("values are others than before the step"))
    return ""


def _refuse_another(link: Connection, about: dict[str, Any]) -> None:
    expect_no(FAILED, lambda: link.ask("undo", {**about, "name": "another step"}))


def _curve(link: Connection, rig: str) -> str:
    """Between two keys and their handles, which no other host would choose."""
    values, revision = channels_of(link, rig)
    control, held = next((c, h) for c, h in values.items() if h)
    channel = next(iter(held))
    keys = [
        {"frame": 3.0, "value": 1.0, "ease": "curve", "in": [-1.0, 0.0], "out": [2.0, 0.5]},
        {"frame": 11.0, "value": 4.0, "ease": "line", "in": [-3.0, -0.25], "out": [1.0, 0.0]},
    ]
    curve = {"control": control, "channel": channel, "keys": keys}
    about = {"rig": rig, "name": NAME}
    kept = link.ask("set_keys", {**about, "revision": revision, "curves": [curve]})
    if kept.get("refused"):
        return tr("refused: {why}", why=kept["refused"][0].get("why", ""))
    found = [
        key
        for one in link.ask("keys", {"rig": rig})["curves"]
        if (one["control"], one["channel"]) == (control, channel)
        for key in one["keys"]
    ]
    try:
        for wanted in keys:
            frame, value = float(str(wanted["frame"])), float(str(wanted["value"]))
            own = next((k["value"] for k in found if abs(k["frame"] - frame) < 1e-6), None)
            same = own is not None and abs(own - value) < 1e-6
            expect(
                same, tr("frame {frame:g}: {own} / {value:g}", frame=frame, own=own, value=value)
            )
        first = next(k for k in found if abs(k["frame"] - 3.0) < 1e-6)
        out = list(map(float, first.get("out") or ()))
        expect(out == [2.0, 0.5], tr("handles are others than were written"))
    finally:
        link.ask("undo", {**about, "revision": kept["revision"]})
    return ""


def _time(link: Connection) -> str:
    now = link.ask("time")
    wanted = now["first"] if now["frame"] != now["first"] else now["last"]
    there = link.ask("go", {"frame": wanted})
    expect(there["frame"] == wanted, f"{there['frame']} / {wanted}")
    back = link.ask("go", {"frame": now["frame"]})
    expect(back == now, f"{back} / {now}")
    return ""


def _png(link: Connection) -> str:
    wanted = {"width": SIDE, "height": SIDE // 2}
    said = link.ask("picture", wanted, DRAWN_IN)["png"]
    data = base64.b64decode(said, validate=True)
    expect(data.startswith(PNG), tr("it is no PNG"))
    size = tuple(int.from_bytes(data[at : at + 4], "big") for at in (16, 20))
    expect(size == (SIDE, SIDE // 2), f"{size[0]} x {size[1]}")
    return ""
