"""Scripts beside a linked program: the one of the manual, and what goes wrong."""

from __future__ import annotations

import re
import tempfile
import textwrap
from collections.abc import Iterator
from pathlib import Path

import pytest

from fox_hand.api import FoxHandError, Library, LinkedHost
from fox_hand.demo.host.simulated_host import Habits
from fox_hand.interchange.link.fox_hand_link import folder_of_hosts
from tests.interchange.link.conftest import Running

MANUAL = Path(__file__).parents[2] / "docs" / "manual"
NAMES = [f"marrow:L_finger_{one}_1_ctl" for one in ("index", "middle")]


@pytest.fixture
def running(work: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Running]:
    with tempfile.TemporaryDirectory(prefix="fh") as place:  # a socket's path has a hundred letters
        monkeypatch.setenv("XDG_RUNTIME_DIR", place)
        made = Running(Habits(stubborn=True), folder_of_hosts(), 5.0, moves=False)
        yield made
        made.stop()


def script(page: Path) -> str:
    """The indented block that links to a program."""
    blocks = re.findall(r"(?:^(?:    .*)?\n)+", page.read_text("utf-8"), re.MULTILINE)
    return next(textwrap.dedent(b).strip() for b in blocks if "LinkedHost" in b)


def test_the_script_of_the_manual_puts_the_last_card_on_what_is_selected(
    running: Running, work: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    library = Library.open("library")
    fist = library.cards("fist")[0]
    library.replace(fist, library.card(fist).with_words(note="The last one."))
    with running.lock:
        running.host.select("rig-1", NAMES)
    code = script(MANUAL / "15-other-programs.md")
    assert code == script(MANUAL / "de" / "15-other-programs.md")
    assert len(code.splitlines()) <= 12
    exec(compile(code, "script", "exec"), {"__name__": "__main__"})
    assert "Fist is on 2 controls of Marrow" in capsys.readouterr().out
    assert running.host.said == ["Put on Fist"]
    with running.lock:
        keys = running.host.open.figures["rig-1"].layers["Base"]
        assert {control for control, _ in keys} == set(NAMES)


def test_what_is_shown_is_put_back_and_refusals_are_named(running: Running) -> None:
    ((control, channel),) = running.host.open.figures["rig-1"].locked
    with LinkedHost.open() as program:
        assert (program.name, program.scene) == ("Harbour host", "harbour")
        rig = program.rigs()[0]
        stance = program.stance(rig).with_values({control: {channel: 12.0, "turn.y": 5.0}})
        program.show(rig, stance)
        assert running.host.open.shown
        program.put_back(rig)
        assert not running.host.open.shown
        assert program.keep(rig, stance, "Bend", keyed=False) == [
            (control, channel, "it is locked")
        ]
        assert program.stance(rig).values([control])[control]["turn.y"] == pytest.approx(5.0)
        with pytest.raises(FoxHandError, match="selected"):
            program.selected()


def test_nobody_there_is_a_sentence(work: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(work / "nowhere"))
    with pytest.raises(FoxHandError, match="listens"):
        LinkedHost.open()
