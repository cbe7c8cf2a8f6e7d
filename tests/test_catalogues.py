"""Catalogues are complete and answer in the language that was asked for."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from fox_hand.base import language

ROOT = Path(__file__).parents[1]
TOOL = ROOT / "tools" / "catalogues.py"


def run(*words: str, **env: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, *words],
        cwd=ROOT,
        env={**os.environ, **env},
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )


def test_every_text_has_an_answer_and_none_is_left_over() -> None:
    done = run(str(TOOL), "--check")
    assert done.returncode == 0, done.stdout


def test_what_is_wrong_with_a_catalogue_is_found(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """An entry without use, one without answer, a field of another name, a stale file."""
    monkeypatch.syspath_prepend(TOOL.parent)
    import catalogues

    kept, place = catalogues.place("de"), tmp_path / "de" / "LC_MESSAGES" / "fox-hand.po"
    place.parent.mkdir(parents=True)
    broken = kept.read_text("utf-8").replace('msgstr "Meine Karten"', 'msgstr ""')
    broken = broken.replace('msgid "Quit"', 'msgid "Quit it"')
    broken = broken.replace('msgstr "{name} schreiben"', 'msgstr "{nome} schreiben"')
    place.write_text(broken, "utf-8")
    place.with_suffix(".mo").write_bytes(kept.with_suffix(".mo").read_bytes())
    monkeypatch.setattr(catalogues, "CATALOGUES", tmp_path)
    assert set(catalogues.problems_of("de")) == {
        "de: not used any more: 'Quit it'",
        "de: no answer: 'My cards'",
        "de: no answer: 'Quit'",
        "de: fields ['name', 'nome'] differ: 'Write {name}'",
        "de: fox-hand.mo is not of its catalogue",
    }


def test_the_command_line_speaks_the_language_of_the_desktop(tmp_path: Path) -> None:
    """Help, errors and numbers; facts as JSON stay what they are."""
    own = {"XDG_CONFIG_HOME": str(tmp_path), "LANGUAGE": "", "LC_ALL": "de_AT.UTF-8"}
    own[language.CHOSEN] = ""
    told = run("-m", "fox_hand", "library", "--help", COLUMNS="200", **own)
    assert "Eine leere Bibliothek machen." in told.stdout
    lost = run("-m", "fox_hand", "library", "list", str(tmp_path / "none"), **own)
    assert lost.returncode == 1 and "nicht zu erreichen" in lost.stderr
    card = "src/fox_hand/demo/night_ferry/library/Marrow/Hands/Fist.foxcard"
    as_json = [run("-m", "fox_hand", "card", "show", card, "--json", **e).stdout for e in (own, {})]
    assert as_json[0] == as_json[1] and json.loads(as_json[0])


def test_what_a_person_chose_goes_before_the_desktop(tmp_path: Path) -> None:
    (tmp_path / "fox-hand").mkdir()
    (tmp_path / "fox-hand" / "settings.json").write_text('{"language": "de"}')
    asked = "from fox_hand.base.language import *; print(language(), number_text(1.5, '.2f'))"
    own = {"XDG_CONFIG_HOME": str(tmp_path), "LC_ALL": "en_GB.UTF-8", language.CHOSEN: ""}
    source = {"PYTHONPATH": str(ROOT / "src")}
    assert run("-c", asked, **own, **source).stdout.split() == ["de", "1,50"]
    (tmp_path / "fox-hand" / "settings.json").write_text("{")
    assert run("-c", asked, **own, **source).stdout.split() == ["en", "1.50"]
    own["LC_ALL"] = "fr_FR.UTF-8"  # a language there is no catalogue of
    assert run("-c", asked, **own, **source).stdout.split() == ["en", "1.50"]


MISTYPED = {
    "--foo": ("There is no option --foo.", "Die Option --foo gibt es nicht."),
    "library list --jso": ("Near to it: --json.", "Ähnlich: --json."),
    "render a.foxcard": ("--out / -o is missing.", "--out / -o fehlt."),
    "render a.foxcard --out": ("--out wants a value", "--out will einen Wert"),
    "convert a.glb b.bvh --rate abc": ("--rate wants a number.", "--rate will eine Zahl."),
    "capture a --frame x": ("--frame wants a whole number.", "--frame will eine ganze Zahl."),
    "apply --side up a b": ("captured, other, both", "eines von captured, other, both"),
    "open a b c": ("Nobody asked for b c.", "Nach b c hat niemand gefragt."),
    "dance": ("No such command 'dance'.", "Den Befehl 'dance' gibt es nicht."),
}


TRIED = """
import contextlib, io, json, sys
from fox_hand.cli import make_app
from fox_hand.cli.command_words import speak
speak()
said = []
for words in json.loads(sys.argv[1]):
    with contextlib.redirect_stderr(io.StringIO()) as told, contextlib.suppress(SystemExit):
        make_app(lambda wish: 0)(words.split())
    said.append(told.getvalue())
print(json.dumps(said))
"""


@pytest.mark.parametrize(("number", "chosen"), [(0, "en"), (1, "de")])
def test_what_is_mistyped_is_told_in_the_language_of_the_user(number: int, chosen: str) -> None:
    """And no command goes on after it."""
    done = run("-c", TRIED, json.dumps(list(MISTYPED)), **{language.CHOSEN: chosen})
    assert done.returncode == 0, done.stderr
    for told, wanted in zip(json.loads(done.stdout), MISTYPED.values(), strict=True):
        assert wanted[number] in told
        assert told.splitlines()[-1].startswith(("Error: ", "Fehler: ")[number])
