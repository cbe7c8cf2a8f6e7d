"""A screen reader in a few lines: asks the accessibility bus what is in the window, presses a
card and sets a value. Run below ``dbus-run-session``; writes what it found
into a file.

Usage: ``python -m tests.ui.main.heard_by_bus FOLDER FILE``
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass
from pathlib import Path

from jeepney import DBusAddress, MessageType, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection

ACCESSIBLE = "org.a11y.atspi.Accessible"
SELECTED, CHECKED = 23, 4  # numbers of the protocol's states
PATIENCE = 60.0  # seconds


@dataclass
class Heard:
    """An object of the bus, as it is said."""

    name: str
    role: str
    words: str
    value: float | None
    selected: bool
    checked: bool
    address: tuple[str, str]


class Bus:
    """The accessibility bus of this session."""

    def __init__(self) -> None:
        session = open_dbus_connection(bus="SESSION")
        ask = DBusAddress("/org/a11y/bus", bus_name="org.a11y.Bus", interface="org.a11y.Bus")
        address = session.send_and_get_reply(new_method_call(ask, "GetAddress")).body[0]
        self._bus: DBusConnection = open_dbus_connection(bus=address)

    def call(self, at: tuple[str, str], face: str, method: str, kinds="", body=()):
        where = DBusAddress(at[1], bus_name=at[0], interface=face)
        message = new_method_call(where, method, kinds or None, body)
        reply = self._bus.send_and_get_reply(message, timeout=20)
        if reply.header.message_type is MessageType.error:
            raise LookupError(f"{method} of {at[1]}: {reply.body}")
        return reply.body

    def of(self, at: tuple[str, str], face: str, name: str):
        properties = "org.freedesktop.DBus.Properties"
        return self.call(at, properties, "Get", "ss", (face, name))[0][1]

    def children(self, at: tuple[str, str]) -> list[tuple[str, str]]:
        return [tuple(child) for child in self.call(at, ACCESSIBLE, "GetChildren")[0]]

    def heard(self, at: tuple[str, str]) -> Heard:
        faces = self.call(at, ACCESSIBLE, "GetInterfaces")[0]
        states = self.call(at, ACCESSIBLE, "GetState")[0][0]
        valued = "org.a11y.atspi.Value" in faces
        return Heard(
            self.of(at, ACCESSIBLE, "Name"),
            self.call(at, ACCESSIBLE, "GetRoleName")[0],
            self.of(at, ACCESSIBLE, "Description"),
            self.of(at, "org.a11y.atspi.Value", "CurrentValue") if valued else None,
            bool(states >> SELECTED & 1),
            bool(states >> CHECKED & 1),
            at,
        )

    def until(self, at: tuple[str, str], wanted: Callable[[Heard], bool]) -> Heard:
        """An object as soon as it is as wanted."""
        end = time.monotonic() + PATIENCE
        while not wanted(now := self.heard(at)):
            if time.monotonic() > end:
                raise TimeoutError(now.name)
            time.sleep(0.1)
        return now

    def walk(self, at: tuple[str, str]) -> Iterator[Heard]:
        try:
            heard, children = self.heard(at), self.children(at)
        except LookupError:  # it went away between two questions
            return
        yield heard
        for child in children:
            if not child[1].endswith("/null"):
                yield from self.walk(child)


def window(bus: Bus) -> tuple[str, str]:
    """The program's window, as soon as the bus knows it."""
    root = "org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root"
    end = time.monotonic() + PATIENCE
    while time.monotonic() < end:
        for program in bus.children(root):
            for child in bus.children(program):
                return child
        time.sleep(0.2)
    raise TimeoutError("no window on the bus")


def main() -> None:
    environment = {**os.environ, "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"}
    command = [sys.executable, "-m", "tests.ui.main.heard_window", sys.argv[1]]
    with subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True) as program:
        assert program.stdout is not None
        try:
            assert program.stdout.readline().strip() == "ready"
            bus = Bus()
            at = window(bus)
            before = list(bus.walk(at))
            fist = next(h for h in before if h.name == "Fist")
            bus.call(fist.address, "org.a11y.atspi.Action", "DoAction", "i", (0,))
            bend = next(h for h in before if h.name == "Forearm bend")
            properties, value = "org.freedesktop.DBus.Properties", ("d", 40.0)
            wanted = ("org.a11y.atspi.Value", "CurrentValue", value)
            worn = bus.until(fist.address, lambda now: now.selected)
            bus.call(bend.address, properties, "Set", "ssv", wanted)
            bent = bus.until(bend.address, lambda now: now.value == value[1])
            after = [worn, bent]
        finally:
            program.kill()
    found = {"before": [asdict(h) for h in before], "after": [asdict(h) for h in after]}
    Path(sys.argv[2]).write_text(json.dumps(found), "utf-8")


if __name__ == "__main__":
    main()
