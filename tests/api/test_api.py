"""The interface for other programs: what it promises, and what it refuses."""

from __future__ import annotations

import inspect
import json
import math
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import fields, is_dataclass
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from fox_hand import api
from fox_hand.cli import make_app
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Channel
from tests.described import ARM, description_of, write_description

MARROW = Path(__file__).parents[2] / "src/fox_hand/demo/night_ferry/cast/marrow.glb"
FROZEN = Path(__file__).parent / "frozen_names.txt"


def test_names_and_signatures_are_those_of_its_version() -> None:
    """What changes here changes scripts of others: with a new line ``VERSION`` gets a higher second
    number, with another one a higher first."""
    assert "\n".join(_surface()) + "\n" == FROZEN.read_text("utf-8")


def _surface() -> Iterator[str]:
    yield f"VERSION {api.VERSION}"
    for name in sorted(set(api.__all__) - {"VERSION", "FoxHandError"}):
        kind = getattr(api, name)
        if is_dataclass(kind):
            yield f"{name}: {', '.join(f'{f.name}: {f.type}' for f in fields(kind))}"
        for member, value in sorted(vars(kind).items()):
            if member.startswith("_"):
                continue
            plain = value.__func__ if isinstance(value, staticmethod) else value
            if inspect.isfunction(plain):
                yield f"{name}.{member}{inspect.signature(plain)}"
            elif not is_dataclass(kind) or isinstance(value, property):
                yield f"{name}.{member}"


def test_loading_it_loads_nothing_heavy() -> None:
    heavy = "print(sorted({'numpy', 'scipy', 'PySide6'} & set(sys.modules)))"
    said = [
        subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        for code in (
            f"import sys, fox_hand.api; {heavy}",
            f"import sys; from fox_hand.api import Rig; Rig.open({str(MARROW)!r}); {heavy}",
        )
    ]
    assert said[0].stdout.strip() == "[]"
    assert "numpy" in said[1].stdout and "PySide6" not in said[1].stdout


@pytest.fixture
def marrow_api(work: Path) -> api.Rig:
    return api.Rig.open(work / "cast" / "marrow.glb")


@settings(max_examples=20)
@given(seed=st.integers(0, 10_000))
def test_values_taken_out_and_put_in_again_are_the_same_stance(seed: int) -> None:
    rig = opened(MARROW)
    stance = posed(rig, seed)
    again = rig.rest.with_values(stance.values(), limits=False)
    wanted, found = stance.matrices(), again.matrices()
    assert all(np.abs(np.subtract(wanted[n], found[n])).max() < 1e-7 for n in wanted)


@cache
def opened(path: Path) -> api.Rig:
    return api.Rig.open(path)


def posed(rig: api.Rig, seed: int) -> api.Stance:
    """Everything turned and moved somehow, settings within their ranges."""
    rng, rules, count = np.random.default_rng(seed), rig.core.setting_rules, len(rig.controls)
    settings = rng.uniform(rules.low, rules.high)
    has = [[kind in c.channels for kind in ("move.x", "turn.x")] for c in rig.controls.values()]
    moves, turns = np.array(has, dtype=float).T[..., None]
    state = rig.core.rest.with_(
        move=rng.normal(0, 0.1, (count, 3)) * moves,
        turn=from_vector(rng.normal(0, 0.8, (count, 3)) * turns),
        settings=np.where(rules.discrete, settings.round(), settings),
    )
    return api.Stance(rig, state)


@pytest.mark.parametrize(
    ("values", "code", "said"),
    [
        ({"heat": {"turn.x": 1}}, "api.no_control", "has no control heat"),
        ({"head": {"turn.w": 1}}, "api.no_channel", "has no channel turn.w; it has"),
        ({"head": {"blink": 1}}, "api.no_channel", "has no channel blink"),
        ({"head": {"turn.x": math.nan}}, "api.no_number", "is no number"),
        ({"head": {"turn.x": "3"}}, "api.no_number", "is no number"),
        ({"mouth": {"jaw_open": 9.0}}, "api.out_of_range", "9 is not within"),
        ({"finger_index_1_L": {"turn.x": 170.0}}, "api.out_of_range", "170 is not within"),
        ({"hat": {"hat": 0.5}}, "api.out_of_range", "a whole number"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_bent(
    marrow_api: api.Rig, values: dict[str, dict[str, float]], code: str, said: str
) -> None:
    with pytest.raises(api.FoxHandError) as told:
        marrow_api.rest.with_values({"neck": {"turn.x": 5.0}, **values})
    assert told.value.code == code
    assert said in told.value.sentence()
    assert marrow_api.rest.values(moved=True) == {}


def test_what_is_locked_is_set_only_when_that_is_said(work: Path) -> None:
    path = write_description(work / "arm.foxrig.json", ARM)
    arm = api.Rig.open(path)
    assert arm.controls["arm_ctl_L"].locked == ("turn.y",)
    with pytest.raises(api.FoxHandError, match="is locked"):
        arm.rest.with_values({"arm_ctl_L": {"turn.y": 5.0}})
    lifted = arm.rest.with_values({"arm_ctl_L": {"turn.y": 5.0}}, limits=False)
    assert lifted.values(["arm_ctl_L"])["arm_ctl_L"]["turn.y"] == pytest.approx(5.0)


def test_a_card_goes_on_as_the_command_puts_it_on(marrow_api: api.Rig, work: Path) -> None:
    card = work / "library" / "Marrow" / "Body" / "Wave.foxcard"
    words = ["apply", str(card), str(marrow_api.path), "--amount", "60", "--json"]
    told = CliRunner().invoke(make_app(lambda _: 0), words)
    assert told.exit_code == 0, told.stderr
    wanted = json.loads(told.stdout)["controls"]
    worn = marrow_api.rest.wearing(api.Card.open(card), 0.6)
    assert worn.values(wanted) == {
        name: pytest.approx({**worn.values([name])[name], **held}) for name, held in wanted.items()
    }
    only = marrow_api.rest.wearing(api.Card.open(card), regions=["legs"])
    regions = {marrow_api.controls[name].region for name in only.values(moved=True)}
    assert regions == {"legs"}
    for wrong in (
        {"amount": 2.0},
        {"regions": ["knees"]},
        {"controls": ["nobody"]},
        {"side": "up"},
    ):
        with pytest.raises(api.FoxHandError):
            marrow_api.rest.wearing(api.Card.open(card), **wrong)  # type: ignore[arg-type]


def test_cards_change_with_what_they_did_not_hold(marrow_api: api.Rig, work: Path) -> None:
    fist = api.Card.open(work / "library/Marrow/Hands/Fist.foxcard")
    wider = fist.with_values(marrow_api, {"head": {"turn.y": 12.0}, "mouth": {"jaw_open": 0.5}})
    assert wider.values()["head"] == {"turn.x": 0.0, "turn.y": 12.0, "turn.z": 0.0}
    assert wider.values()["mouth"] == {"jaw_open": 0.5}
    kept = {n: v for n, v in wider.values().items() if n in fist.values()}
    assert kept == fist.values()
    assert (wider.identity, wider.revision) == (fist.identity, fist.revision)
    with pytest.raises(api.FoxHandError, match="is a clip"):
        api.Card.open(work / "library/Marrow/Clips/Nod.foxcard").with_values(marrow_api, {})
    pim = api.Rig.open(work / "cast/pim.glb")
    with pytest.raises(api.FoxHandError, match="was not taken from Pim"):
        fist.with_values(pim, {})
    other = fist.mirrored(marrow_api)
    assert (other.side, other.identity != fist.identity) == ("right", True)
    assert set(other.values()) == {name.replace("_L", "_R") for name in fist.values()}


def test_a_library_is_written_as_the_window_writes_it(marrow_api: api.Rig, work: Path) -> None:
    library, other = (api.Library.open(work / "library", author=who) for who in ("Ines", "Tomas"))
    (facts,) = library.cards("fist")
    card = library.card(facts)
    before = card.picture()
    changed = library.replace(
        facts, card.with_values(marrow_api, {"finger_index_1_L": {"turn.z": 3.0}})
    )
    assert changed.revision == facts.revision + 1
    assert library.card(changed).picture() == before  # nobody drew another one
    for late in (lambda: other.change(facts, note="late"), lambda: library.move(facts, "Old")):
        with pytest.raises(api.FoxHandError, match="was changed"):
            late()
    other.look_again()
    (seen,) = other.cards("fist")
    named = other.change(seen, name="Fist, flat", note="Flatter.", tags=["grip"])
    assert (named.name, named.note, named.tags, named.path.name) == (
        "Fist, flat",
        "Flatter.",
        ("grip",),
        "Fist, flat.foxcard",
    )
    moved = other.move(named, "Marrow/Old")
    assert moved.sheet == "Marrow/Old" and moved.path.is_file()
    back = other.remove(moved)
    assert not moved.path.exists() and other.cards("flat sheet:old") == []
    assert back() == moved
    with pytest.raises(api.FoxHandError, match="is no card"):
        other.card(work / "nothing.foxcard")
    nod = marrow_api.rest.with_values({"head": {"turn.x": 3.0}}).capture("Nod")
    twice = [other.add(nod, "Marrow/Body") for _ in range(2)]
    assert len({facts.identity for facts in twice}) == 2  # another card, not the same twice
    for nameless in (
        lambda: other.add(nod.with_words(name=" "), "Marrow/Body"),
        lambda: other.change(twice[0], name=""),
        lambda: other.replace(twice[1], other.card(twice[1]).with_words(name="")),
    ):
        with pytest.raises(api.FoxHandError, match="Give the card a name"):
            nameless()
    for words in ("by=me tga:grip", "fits:all"):
        with pytest.raises(api.FoxHandError) as told:
            other.cards(words)
        assert told.value.code == "find.unknown"
    with pytest.raises(api.FoxHandError, match="is a library already"):
        api.Library.create(work / "library")


def test_a_rig_that_is_only_described_wears_what_its_model_wears(
    marrow_api: api.Rig, work: Path
) -> None:
    """Values through a description, in centimetres with Z up, and through the model's file give one
    pose."""
    plain = work / "plain.glb"
    plain.write_bytes(marrow_api.path.read_bytes())
    model = api.Rig.open(plain)
    path = write_description(work / "host.foxrig.json", description_of(model.core))
    host = api.Rig.open(path)
    values = posed(model, 3).values()
    only = {
        n: {c: v for c, v in held.items() if c.partition(".")[0] in set(Channel)}
        for n, held in values.items()
        if n in host.controls
    }
    there = host.rest.with_values(only, limits=False).matrices()
    here = model.rest.with_values(only, limits=False).matrices()
    names = [n for n in here if n in host.controls]
    assert len(names) > 50
    for name in names:  # the unit lies in the scale of its nodes
        gap = np.subtract(there[name], here[name])[:3, 3]
        assert np.abs(gap).max() < 1e-6
    nod = host.rest.with_values({"head": {"turn.x": 10.0}}).capture("Nod")
    assert nod.character == model.name
    assert model.rest.wearing(nod).values(["head"])["head"]["turn.x"] == pytest.approx(10.0)


def test_pictures_are_of_the_size_that_is_asked_for(marrow_api: api.Rig) -> None:
    with api.Pictures() as pictures:
        data = pictures.draw(marrow_api.rest, 64, 48)
        assert data[:8] == b"\x89PNG\r\n\x1a\n" and data[16:24] == bytes([0, 0, 0, 64, 0, 0, 0, 48])
        with pytest.raises(api.FoxHandError):
            pictures.draw(marrow_api.rest, 8, 8)
