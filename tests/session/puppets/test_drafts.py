"""What a person says about drawings stays beside them and counts again when they are drawn anew."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest
from typer.testing import CliRunner, Result

from fox_hand.base.errors import FoxHandError
from fox_hand.cli.app import make_app
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.puppet.puppet import GuessKind
from fox_hand.interchange.puppets.puppet_draft import draft_path, draft_schema
from fox_hand.interchange.readers import read_rig
from fox_hand.session.puppets.making import puppet_of, write_draft
from tests.puppets import as_folder, bird, blob

SCHEMA = Path(__file__).parents[3] / "docs" / "format" / "foxpuppet-1.schema.json"
THINGS = {"Thing": blob(200, 190, 40, 30, "red"), "Speck": blob(380, 20, 10, 10, "black")}


def run(*words: str | Path) -> Result:
    return CliRunner().invoke(make_app(lambda _: 0), [str(w) for w in words])


@pytest.fixture
def source(tmp_path: Path) -> Path:
    return as_folder(tmp_path / "bird", THINGS | bird())


def rewritten(source: Path, **changes: dict[str, object]) -> dict[str, object]:
    """The draft with some parts said otherwise."""
    path = draft_path(source)
    document = json.loads(path.read_text())
    for part in document["parts"]:
        for key, value in changes.get(part["name"].replace(" ", "_"), {}).items():
            part[key] = value
    path.write_text(json.dumps(document))
    return document


def test_a_draft_says_everything_and_changes_nothing_by_itself(source: Path) -> None:
    before = puppet_of(source)
    path = write_draft(before, source, 0.6)
    assert path == source.with_name("bird.foxpuppet.json")
    document = json.loads(path.read_text())
    assert SCHEMA.read_bytes() == draft_schema()
    jsonschema.validate(document, json.loads(SCHEMA.read_text()))
    after = puppet_of(source)
    assert after.guesses == before.guesses != ()  # nobody has looked at them
    for one, other in zip(before.parts, after.parts, strict=True):
        assert (one.name, one.above, one.side, one.lower) == (
            *(other.name, other.above, other.side, other.lower),
        )
        assert one.pivot == pytest.approx(other.pivot, abs=0.01)


def test_what_is_said_counts_and_is_no_guess_any_more(source: Path) -> None:
    write_draft(puppet_of(source), source)
    rewritten(
        source,
        Thing={"hangs_on": "Head", "pivot": [260, 60], "guessed": [], "side": "left"},
        Head={"limits": [30, -20], "region": "head"},
        Beak={"shown": "shout"},
        Near_wing={"lower": "", "partner": ""},
    )
    found = puppet_of(source)
    thing, head = found.part("Thing"), found.part("Head")
    assert (thing.above, thing.pivot, thing.side) == ("Head", (260.0, 60.0), Side.LEFT)
    assert head.limits == pytest.approx((-0.349, 0.5236), abs=1e-3) and head.region is Region.HEAD
    assert found.part("Beak").seen.name == "shout"
    assert found.part("Near wing").lower is None and found.part("Near wing").partner is None
    assert not [g for g in found.guesses if g.part == "Thing"]
    assert [g for g in found.guesses if g.part == "Speck"]


def test_drawn_anew_it_keeps_what_was_said_and_takes_in_what_is_new(
    source: Path, tmp_path: Path
) -> None:
    write_draft(puppet_of(source), source)
    rewritten(source, Beak={"pivot": [291, 101]})
    out = tmp_path / "bird.glb"
    assert run("puppet", "make", source, "-o", out).exit_code == 0
    old = read_rig(out)
    blob(318, 96, 74, 30, "#ffcc00").save(source / "06 Beak" / "open.png")
    blob(318, 104, 60, 20, "#ffcc00").save(source / "06 Beak" / "sing.png")
    blob(250, 40, 60, 30, "#334455").save(source / "03 Hat.png")
    (source / "02 Speck.png").unlink()
    found = puppet_of(source)
    assert found.part("Beak").pivot == (291.0, 101.0)
    assert [d.name for d in found.part("Beak").drawings] == ["open", "shout", "shut", "sing"]
    assert found.part("Hat").above == "Head"
    assert found.notes == ("The draft speaks of Speck, which is not drawn.",)
    assert run("puppet", "make", source, "-o", out).exit_code == 0
    new = read_rig(out)
    kept = {c.name for c in old.controls} - {"speck", "speck__0"}
    assert kept <= {c.name for c in new.controls}  # so that cards still find their controls


def test_the_folder_one_is_in_has_a_name(source: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(source)
    assert run("puppet", "draft", ".").exit_code == 0
    assert draft_path(source).is_file() and puppet_of(Path()).name == "Bird"


def test_the_order_of_the_draft_is_the_order_in_front(source: Path) -> None:
    write_draft(puppet_of(source), source)
    path = draft_path(source)
    document = json.loads(path.read_text())
    names = [part["name"] for part in document["parts"]]
    document["parts"].insert(0, document["parts"].pop(names.index("Far wing")))
    path.write_text(json.dumps(document))
    assert [part.name for part in puppet_of(source).parts] == ["Far wing", *names[:-1]]


def test_what_would_hang_on_itself_hangs_on_the_body_and_is_told(source: Path) -> None:
    write_draft(puppet_of(source), source)
    rewritten(
        source, Head={"hangs_on": "Beak"}, Thing={"hangs_on": "Thing"}, Speck={"hangs_on": ""}
    )
    found = puppet_of(source)
    assert any("would hang on itself" in note for note in found.notes)
    roots = [part.name for part in found.parts if part.above is None]
    assert len(roots) == 1
    for part in found.parts:
        assert not found.circle(part.name)


def test_another_part_can_be_the_body(source: Path) -> None:
    write_draft(puppet_of(source), source)
    rewritten(source, Head={"hangs_on": ""}, Body={"hangs_on": "Head"})
    found = puppet_of(source)
    assert found.root("").name == "Head" and found.part("Body").above == "Head"


@pytest.mark.parametrize("text", ["", "{", "[]", '{"format": "other"}', '{"parts": 3}'])
def test_a_draft_that_cannot_be_read_is_told_and_left_alone(source: Path, text: str) -> None:
    path = draft_path(source)
    path.write_text(text)
    with pytest.raises(FoxHandError) as error:
        puppet_of(source)
    assert "drawings are untouched" in error.value.sentence()
    assert path.read_text() == text


def test_the_command_writes_a_draft_and_keeps_the_one_before(source: Path, tmp_path: Path) -> None:
    first = run("puppet", "draft", source, "--height", "0.5", "--name", "Tern")
    assert first.exit_code == 0 and "guessed\tThing hangs on" in first.stdout
    rewritten(source, Thing={"hangs_on": "Head", "guessed": ["pivot"]})
    before = draft_path(source).read_bytes()
    second = run("puppet", "draft", source)
    assert second.exit_code == 0 and "Thing hangs on" not in second.stdout
    assert draft_path(source).with_name("bird.foxpuppet.json.bak").read_bytes() == before
    assert run("puppet", "make", source, "-o", tmp_path / "t.glb").exit_code == 0
    rig = read_rig(tmp_path / "t.glb")
    assert rig.name == "Tern" and rig.height == pytest.approx(0.5 * 0.93, abs=0.06)
    assert json.loads(run("puppet", "schema").stdout)["title"] == "Fox Hand puppet draft, version 1"
    kinds = {g.kind for g in puppet_of(source).guesses if g.part == "Thing"}
    assert kinds <= {GuessKind.PIVOT}
