"""The two ends of a link: what a host promises, and what nobody may do to it."""

from __future__ import annotations

import ast
import base64
import contextlib
import copy
import json
import os
import random
import shutil
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from fox_hand.demo.host.host_scene import STEPS, ChannelKeys
from fox_hand.demo.host.simulated_host import Habits, SimulatedHost
from fox_hand.interchange.link import Connection, LinkError, fox_hand_link
from fox_hand.interchange.link.fox_hand_link import (
    CHANGED,
    NOT_WELCOME,
    TOO_LARGE,
    WATCHES,
    Link,
)
from fox_hand.interchange.link.self_test import findings
from tests.interchange.link.conftest import Running, Start

NODE = Path(__file__).parents[2] / "node"
RIG = "rig-1"
PIXEL = base64.b64decode(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
)
KILLS = int(os.environ.get("FOX_HAND_KILLS", "6"))
FRAMES = 10_000


def until(so: Callable[[], bool], seconds: float = 20.0) -> None:
    end = time.monotonic() + seconds
    while not so():
        assert time.monotonic() < end, "it did not come"
        time.sleep(0.005)


def state_of(running: Running) -> Any:
    with running.lock:
        return copy.deepcopy((running.host.open._content(), len(running.host.open.steps)))


def asked(link: Connection, **more: Any) -> dict[str, Any]:
    return {"rig": RIG, "revision": link.ask("values", {"rig": RIG})["revision"], **more}


def test_the_simulated_host_does_everything_right_and_a_careless_one_is_found_out(
    start: Start, monkeypatch: pytest.MonkeyPatch
) -> None:
    found = list(findings(start().link.path))
    assert [f.what for f in found if not f.right] == []
    assert len(found) > 20
    monkeypatch.setattr(SimulatedHost, "put_back", lambda *_: None)  # leaves what it showed
    monkeypatch.setattr(Link, "_unchanged", lambda *_: None)  # writes whatever the revision is
    monkeypatch.setattr(SimulatedHost, "undo", lambda *_: True)  # as if it had been done
    monkeypatch.setattr(SimulatedHost, "picture", lambda *_: PIXEL)
    lost = property(lambda _: {}, lambda *_: None)
    monkeypatch.setattr(ChannelKeys, "handles", lost, raising=False)
    wrong = [f.what for f in findings(start().link.path) if not f.right]
    for words in (
        *("to the bit", "an old revision is refused", "its last step is taken back"),
        *("curves are kept as written", "Its picture is a PNG"),
    ):
        assert any(words in what for what in wrong), words


def test_a_slow_host_says_so_and_does_only_the_newest(start: Start) -> None:
    running = start(Habits(slow=0.1))
    with contextlib.closing(running.connect()) as link:
        control, held = next(iter(link.ask("values", {"rig": RIG})["values"].items()))
        channel = next(iter(held))
        params = asked(link)
        answers = [
            link.begin("show", {**params, "values": {control: {channel: float(n)}}, "number": n})
            for n in range(20)
        ]
        said = [answer.result(20.0) for answer in answers]
        assert said[-1]["slow"] and said[-1]["number"] == 19
        assert sum("skipped" in one for one in said) > 10
        with running.lock:
            assert running.host.open.values(RIG)[control][channel] == 19.0
    said_slow = [f for f in findings(running.link.path) if "thirty" in f.what]
    assert said_slow and all(f.right and "slow" in f.detail for f in said_slow)


@settings(
    max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None
)
@given(seed=st.integers(0, 1 << 30))
def test_random_previews_leave_not_a_bit_behind(start: Start, seed: int) -> None:
    running = start() if not RUNNING else RUNNING[0]
    RUNNING[:] = [running]
    chance = random.Random(seed)
    with contextlib.closing(running.connect()) as link:
        until(lambda: link.host.leads or _leads(link))
        values = link.ask("values", {"rig": RIG})["values"]
        flat = [(c, k) for c, held in values.items() for k in held]
        before = state_of(running)
        params = asked(link)
        for number in range(chance.randrange(1, 8)):
            shown: dict[str, dict[str, float]] = {}
            for control, channel in chance.sample(flat, chance.randrange(1, 40)):
                shown.setdefault(control, {})[channel] = chance.uniform(-1e3, 1e3)
            link.ask("show", {**params, "values": shown, "number": number})
        if chance.random() < 0.5:
            link.ask("put_back", {"rig": RIG})
    until(lambda: not running.link._previews)  # whoever hangs up is put back as well
    assert state_of(running) == before
    with running.lock:
        assert running.host.open.values(RIG) == values


RUNNING: list[Running] = []


@pytest.fixture(autouse=True)
def one_host_a_test() -> None:
    RUNNING.clear()


def _leads(link: Connection) -> bool:
    try:
        link.ask("put_back", {"rig": RIG})
    except LinkError:
        return False
    return True


def test_who_says_nothing_or_is_gone_is_put_back_by_the_host_itself(start: Start) -> None:
    running = start(watch=1.5)
    link = running.connect()
    values = link.ask("values", {"rig": RIG})["values"]
    control = next(iter(values))
    shown = {control: dict.fromkeys(values[control], 33.0)}
    link.ask("show", {**asked(link), "values": shown, "number": 1})
    with running.lock:
        assert running.host.open.values(RIG)[control] == shown[control]
    until(lambda: not running.link._previews)  # nothing was said for so long
    with running.lock:
        assert running.host.open.values(RIG) == values
    link.ask("show", {**asked(link), "values": shown, "number": 2})
    for _ in range(20):  # a word now and then holds it
        time.sleep(0.1)
        link.ask("still")
    assert running.link._previews
    link.close()
    until(lambda: not running.link._previews)
    with running.lock:
        assert running.host.open.values(RIG) == values


def test_what_changed_meanwhile_is_not_written_over(start: Start) -> None:
    running = start()
    heard: list[tuple[str, dict[str, Any]]] = []
    link = Connection(running.link.path, lambda method, params: heard.append((method, params)))
    with contextlib.closing(link):
        params = asked(link)
        with running.lock:
            running.link.changed(running.host.change_something())
        until(lambda: any(method == "values" for method, _ in heard))
        before = state_of(running)
        values = {"marrow:M_head_ctl": {"turn.y": 5.0}}
        for method in ("keep", "show"):
            with pytest.raises(LinkError) as told:
                link.ask(method, {**params, "values": values, "name": "Late", "number": 1})
            assert told.value.number == CHANGED
            assert told.value.data == {"revision": params["revision"] + 1}
        assert state_of(running) == before
        link.ask("keep", {**asked(link), "values": values, "name": "Turn", "keyed": True})
        with running.lock:
            scene = running.host.open
            assert scene.steps[-1][0] == "Turn"
            assert scene.values(RIG)["marrow:M_head_ctl"]["turn.y"] == 5.0
            scene.undo()
        assert state_of(running) == before


def test_of_two_windows_the_second_watches_until_the_first_is_gone(start: Start) -> None:
    running = start()
    first, heard = running.connect(), list[str]()
    second = Connection(running.link.path, lambda method, _: heard.append(method))
    assert (first.host.leads, second.host.leads) == (True, False)
    with pytest.raises(LinkError) as told:
        second.ask("keep", {**asked(second), "values": {}, "name": "no"})
    assert told.value.number == WATCHES
    first.close()
    until(lambda: "role" in heard)
    second.ask("keep", {**asked(second), "values": {}, "name": "yes"})
    second.close()


def test_a_stubborn_host_says_what_it_refused_and_writes_the_rest(start: Start) -> None:
    running = start(Habits(stubborn=True))
    with contextlib.closing(running.connect()) as link:
        ((control, channel),) = running.host.open.figures[RIG].locked
        values = {control: {channel: 9.0, "turn.y": 4.0}}
        said = link.ask("keep", {**asked(link), "values": values, "name": "Both"})
        assert said["refused"] == [{"control": control, "channel": channel, "why": "it is locked"}]
        after = link.ask("values", {"rig": RIG})["values"][control]
        assert (after[channel], after["turn.y"]) == (0.0, 4.0)


def test_curves_go_in_and_out_with_their_handles(start: Start) -> None:
    running = start()
    with contextlib.closing(running.connect()) as link:
        curve = {
            "control": "marrow:M_head_ctl",
            "channel": "turn.x",
            "keys": [
                {"frame": 1.0, "value": 0.0, "ease": "curve", "in": [-2.0, 0.0], "out": [2.0, 1.5]},
                {"frame": 9.0, "value": 12.0, "ease": "step"},
            ],
        }
        link.ask(
            "set_keys", {**asked(link), "curves": [curve], "name": "Nod", "layer": "Hands fix"}
        )
        (found,) = link.ask("keys", {"rig": RIG, "layer": "Hands fix"})["curves"]
        assert found == {**curve, "layer": "Hands fix"}
        assert link.ask("keys", {"rig": RIG, "layer": "Base"})["curves"] == []
        link.ask("go", {"frame": 9.0})
        assert link.ask("values", {"rig": RIG})["values"]["marrow:M_head_ctl"]["turn.x"] == 12.0
        link.ask("switch", {"rig": RIG, "name": "handSpaceL", "to": "chest"})
        now = {s["name"]: s["now"] for s in link.ask("switches", {"rig": RIG})["switches"]}
        assert now["handSpaceL"] == "chest"


# -- strangers -------------------------------------------------------------------------------


def test_ten_thousand_hostile_frames_change_nothing(start: Start) -> None:
    running = start()
    before, chance = state_of(running), random.Random(7)
    token, sent, connections = running.link.token, 0, 0
    while sent < FRAMES:
        connections += 1
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as raw:
            raw.settimeout(5.0)
            raw.connect(str(running.link.path))
            with contextlib.suppress(OSError):  # it hangs up, as it should
                if chance.random() < 0.8:
                    raw.sendall(_hello(token))
                for _ in range(chance.randrange(1, 90)):
                    raw.sendall(_hostile(chance))
                    sent += 1
    assert connections > 50
    until(lambda: running.link._asked.empty() and not running.link._later)
    assert state_of(running) == before
    with contextlib.closing(running.connect()) as link:
        assert [f.what for f in findings(running.link.path) if "JSON" in f.what and f.right]
        assert len(link.ask("rigs", patience=20.0)["rigs"]) == 2


def _hello(token: str) -> bytes:
    params = {"token": token, "protocol": [1], "client": {}}
    return (
        json.dumps({"jsonrpc": "2.0", "id": 1, "method": "hello", "params": params}).encode()
        + b"\n"
    )


def _hostile(chance: random.Random) -> bytes:
    method = chance.choice(
        ["show", "keep", "set_keys", "values", "go", "select", "picture", "hello"]
    )
    deep: Any = chance.choice([[], {}, None, "x", 1e308, -1, True, "\ud800", {"rig": []}])
    params = chance.choice(
        [
            deep,
            {"rig": RIG, "revision": chance.choice([1, "1", None, 1e99]), "values": deep},
            {"rig": RIG, "revision": 1, "values": {"no control": {"turn.x": 1}}},
            {"rig": RIG, "revision": 1, "values": {"marrow:M_head_ctl": {"turn.x": "1"}}},
            {"rig": RIG, "revision": 1, "curves": deep, "name": 3},
            {"width": 1e9, "height": -4, "token": "täuschend", "frame": "soon"},
        ]
    )
    frame = {"jsonrpc": "2.0", "id": chance.choice([1, "a", None, [], 1.5]), "method": method}
    whole = json.dumps({**frame, "params": params}).encode()
    kind = chance.randrange(9)
    if kind == 0:
        return whole[: chance.randrange(len(whole))] + b"\n"
    if kind == 1:
        return bytes(chance.randrange(256) for _ in range(40)).replace(b"\n", b"") + b"\n"
    if kind == 2:
        return b"[" * 5000 + b"\n"
    if kind == 3:
        return b'{"jsonrpc":"2.0","id":1,"method":"go","params":{"frame":NaN}}\n'
    if kind == 4:
        return b'{"jsonrpc":"2.0","id":1,"method":"go","params":{"frame":1' + b"0" * 5000 + b"}}\n"
    return whole + b"\n"


STILL = b'{"jsonrpc":"2.0","id":1,"method":"still"}\n'


@pytest.mark.parametrize(("data", "code"), [(b"x" * (5 << 20), TOO_LARGE), (STILL * 9000, None)])
def test_what_is_too_much_ends_the_connection_and_no_other(
    start: Start, data: bytes, code: int | None
) -> None:
    running = start()
    with contextlib.closing(running.connect()) as link, socket.socket(socket.AF_UNIX) as raw:
        raw.settimeout(10.0)
        raw.connect(str(running.link.path))
        answers: list[bytes] = []

        def read() -> None:
            with contextlib.suppress(ConnectionResetError):
                answers.extend(iter(lambda: raw.recv(1 << 16), b""))

        reader = threading.Thread(target=read)
        reader.start()
        with contextlib.suppress(OSError):
            raw.sendall(_hello(running.link.token) + data)
        reader.join()  # it was hung up on, or this would wait
        said = b"".join(answers)
        assert code is None or f'"code":{code}'.encode() in said
        assert said.count(b"\n") < 9000
        assert link.ask("still", patience=20.0) == {}


@pytest.mark.parametrize(
    "answer",
    [
        b"\x00\xff hello\n{}\n",
        b"",
        b"[" * 100_000 + b"\n",
        b"x" * (17 << 20),
        b'{"jsonrpc":"2.0","id":1,"result":{}}\n',
        b'{"jsonrpc":"2.0","id":1,"result":[1e999]}\n',
        b'{"jsonrpc":"2.0","id":[1],"result":7}\n',
    ],
)
def test_a_host_that_speaks_otherwise_is_no_host(tmp_path: Path, answer: bytes) -> None:
    path = tmp_path / "odd.sock"
    with socket.socket(socket.AF_UNIX) as listening:
        listening.bind(str(path))
        listening.listen(8)

        def speak() -> None:
            with contextlib.suppress(OSError):
                while True:
                    guest, _ = listening.accept()
                    with guest, contextlib.suppress(OSError):
                        guest.recv(1 << 16)
                        guest.sendall(answer)

        threading.Thread(target=speak, daemon=True).start()
        with pytest.raises(LinkError):
            Connection(path)
        found = list(findings(path))
        assert found and not any(one.right for one in found)
        listening.shutdown(socket.SHUT_RDWR)


def test_nobody_else_gets_in(start: Start, tmp_path: Path) -> None:
    running = start()
    assert running.link.path.stat().st_mode & 0o777 == 0o600
    assert Path(f"{running.link.path}.token").stat().st_mode & 0o777 == 0o600
    assert running.link.path.parent.stat().st_mode & 0o777 == 0o700
    Path(f"{running.link.path}.token").write_text("0" * 48)
    with pytest.raises(LinkError) as told:
        running.connect()
    assert told.value.number == NOT_WELCOME
    if os.getuid() != 0:
        pytest.skip("only root can be somebody else")
    for folder in (*running.link.path.parents, running.link.path):  # as if somebody had opened it
        if folder.is_relative_to(tmp_path.parent.parent):
            folder.chmod(0o777)
    code = (
        f"import os, socket; os.setuid(65534); s = socket.socket(socket.AF_UNIX);"
        f"s.connect({str(running.link.path)!r}); s.sendall({_hello(running.link.token)!r});"
        f"print(len(s.recv(100)))"
    )
    words = [sys.executable, "-c", code]
    done = subprocess.run(words, capture_output=True, text=True, check=False)
    hung_up = [word for word in ("reset", "pipe") if word in done.stderr.lower()]
    assert done.stdout.strip() == "0" or hung_up


# -- killed, and in another language -----------------------------------------------------------


def test_a_host_that_is_killed_has_its_scene_before_or_after(tmp_path: Path) -> None:
    """Many more with ``FOX_HAND_KILLS=500``."""
    scene, chance = tmp_path / "scene.json", random.Random(3)
    environment = {**os.environ, "XDG_RUNTIME_DIR": str(tmp_path)}
    words = [sys.executable, "-m", "fox_hand", "demo", "host", "--headless"]
    words += ["--scene", str(scene)]
    known = 0.0
    for _ in range(KILLS):
        with subprocess.Popen(words, env=environment, stdout=subprocess.PIPE, text=True) as host:
            assert host.stdout is not None
            path = Path(host.stdout.readline().strip().rpartition(" ")[2])
            link, last = Connection(path), known
            threading.Timer(chance.uniform(0.02, 0.4), host.kill).start()
            with contextlib.suppress(LinkError):
                while True:
                    value = last + 1
                    keep = {**asked(link), "name": "Step", "keyed": False}
                    values = {"marrow:M_head_ctl": {"turn.x": value, "turn.y": -value}}
                    link.ask("keep", {**keep, "values": values})
                    last = value
            link.close()
            host.wait()
        held = (
            json.loads(scene.read_text())[RIG]["still"]["marrow:M_head_ctl"]
            if scene.exists()
            else None
        )
        known = 0.0 if held is None else held["turn.x"]
        assert known in (last, last + 1)
        assert held is None or held["turn.y"] == -known


def test_a_window_that_is_killed_leaves_the_scene_before_or_after(start: Start) -> None:
    """At any moment of previews, steps and undo; many more with ``FOX_HAND_KILLS=500``."""
    running, chance = start(), random.Random(5)
    code = (
        "from pathlib import Path\nfrom fox_hand.interchange.link import Connection\n"
        f"link, rig = Connection(Path({str(running.link.path)!r})), {RIG!r}\n"
        "def now(): return link.ask('values', {'rig': rig})['revision']\n"
        "def said(): return {'rig': rig, 'revision': now()}\n"
        "def both(n): return {'values': {'marrow:M_head_ctl': {'turn.x': n, 'turn.y': -n}}}\n"
        "print('linked', flush=True)\n"
        "for n in range(1, 10**9):\n"
        "    link.ask('show', {**said(), **both(n + 0.5)})\n"
        "    link.ask('keep', {**said(), **both(float(n)), 'name': 'Step', 'keyed': bool(n % 2)})\n"
        "    n % 3 or link.ask('undo', {**said(), 'name': 'Step'})\n"
    )
    for _ in range(KILLS):
        words = [sys.executable, "-c", code]
        with subprocess.Popen(words, stdout=subprocess.PIPE) as window:
            assert window.stdout is not None
            assert window.stdout.readline() == b"linked\n"
            time.sleep(chance.uniform(0.0, 0.15))
            window.kill()
        until(lambda: not running.link._previews and not running.link.guests)
        with running.lock:
            held = running.host.open.values(RIG)["marrow:M_head_ctl"]
            assert held["turn.x"] == -held["turn.y"]
            assert held["turn.x"] == round(held["turn.x"])  # nothing of a preview
    with running.lock:
        whole = len(running.host.open.steps) < STEPS  # else the oldest are forgotten
        while running.host.open.steps:
            running.host.open.undo()
        assert not whole or running.host.open.values(RIG)["marrow:M_head_ctl"]["turn.x"] == 0.0


def test_who_shows_something_and_is_killed_leaves_no_trace(start: Start) -> None:
    running = start()
    before = state_of(running)
    code = (
        "from pathlib import Path\nfrom fox_hand.interchange.link import Connection\n"
        f"link = Connection(Path({str(running.link.path)!r}))\n"
        f"revision = link.ask('values', {{'rig': {RIG!r}}})['revision']\n"
        "for number in range(10**9):\n"
        f"    link.ask('show', {{'rig': {RIG!r}, 'revision': revision, 'number': number,"
        " 'values': {'marrow:M_head_ctl': {'turn.x': float(number)}}})\n"
        "    print(number, flush=True)\n"
    )
    with subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE) as window:
        assert window.stdout is not None
        for _ in range(5):
            window.stdout.readline()
        assert running.link._previews
        window.kill()
    until(lambda: not running.link._previews)
    assert state_of(running) == before
    assert running.host.open.values(RIG)["marrow:M_head_ctl"]["turn.x"] == 0.0


@pytest.mark.skipif(shutil.which("node") is None, reason="Node is not there")
def test_a_host_in_another_language_written_from_the_page_alone_does_everything_right(
    tmp_path: Path,
) -> None:
    words = ["node", str(NODE / "small_host.mjs"), str(tmp_path / "hosts")]
    with subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as host:
        assert host.stdout is not None and host.stdin is not None
        found = list(findings(Path(host.stdout.readline().strip())))
        host.stdin.close()
    assert [(f.what, f.detail) for f in found if not f.right] == []
    assert len(found) > 12


def test_the_adapter_is_one_plain_file_for_old_pythons(tmp_path: Path) -> None:
    source = Path(fox_hand_link.__file__).read_text("utf-8")
    tree = ast.parse(source, feature_version=(3, 7))
    named = {a.name for n in ast.walk(tree) if isinstance(n, ast.Import) for a in n.names}
    named |= {n.module or "" for n in ast.walk(tree) if isinstance(n, ast.ImportFrom)}
    assert not any("fox_hand" in name for name in named)
    shutil.copy(fox_hand_link.__file__, tmp_path / "fox_hand_link.py")
    code = "import sys; sys.path[:0] = ['.']; import fox_hand_link"
    words = [sys.executable, "-I", "-S", "-c", code]
    done = subprocess.run(words, cwd=tmp_path, capture_output=True, check=False)
    assert done.returncode == 0, done.stderr
