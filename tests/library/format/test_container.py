"""The card file: opens with any unzip, keeps every bit, and survives damage as a sentence."""

from __future__ import annotations

import io
import json
import subprocess
import sys
import zipfile
from pathlib import Path

import jsonschema
import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.versions import upgrade
from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind
from fox_hand.core.maths.rotations import from_vector
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.pose import ChannelFilter, Pose, take
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format import container
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import STEPS, card_bytes, read_card
from fox_hand.library.format.head import read_head, read_quickly
from fox_hand.library.format.schema import MIMETYPE, VERSION, json_schema
from fox_hand.library.store.store import Library
from tests.library.conftest import Listed

DOCS = Path(__file__).parents[3] / "docs" / "format"


def a_card(rig: Rig, seed: int = 1) -> Card:
    rng = np.random.default_rng(seed)
    count = len(rig.controls)
    turn = from_vector(rng.normal(0, 0.7, (count, 3)))
    state = rig.rest.with_(
        turn=turn,
        move=rng.normal(0, 0.1, (count, 3)),
        settings=rng.uniform(0, 1, len(rig.settings)),
    )
    return Card(
        name="Grip: rail / 2",
        pose=take(rig, state, ChannelFilter.of(rig, range(count))),
        region=Region.HANDS,
        side="left",
        tags=("deck", "grün"),
        note="Held close.",
        author="Ines B.",
        licence="Show only",
        character=rig.name,
        fingerprint=rig.fingerprint,
        created="2026-11-12T09:00:00Z",
        changed="2026-11-12T09:00:00Z",
        frame=Camera(target=(0.1, 1.2, 0.3), yaw=0.3, pitch=-0.1, distance=0.8, shift=(0.2, -1.5)),
    )


def test_a_card_comes_back_bit_for_bit(tmp_path: Path, marrow: Rig) -> None:
    card = a_card(marrow)
    path = tmp_path / "grip.foxcard"
    path.write_bytes(card_bytes(card, b"PNG"))
    back, picture = read_card(path)
    assert picture == b"PNG"
    assert back.frame is not None
    assert np.allclose([back.frame.yaw, back.frame.fov], [0.3, np.radians(28)])
    for name, held in card.pose.controls.items():
        again = back.pose.controls[name]
        assert (again.move, again.turn, again.scale) == (held.move, held.turn, held.scale)
        assert dict(again.settings) == dict(held.settings)
        assert again.rest == held.rest
        if held.euler is not None:
            assert np.allclose(again.euler, held.euler, atol=1e-12)
    assert (back.name, back.tags, back.side, back.identity) == (
        card.name,
        card.tags,
        card.side,
        card.identity,
    )


def test_absent_channels_are_not_written(marrow: Rig) -> None:
    row = marrow.control_row["finger_index_1_L"]
    pose = take(marrow, marrow.rest, ChannelFilter.of(marrow, [row]))
    data = card_bytes(Card("One", pose), None)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        held = json.loads(archive.read("card.json"))["controls"]["finger_index_1_L"]
    assert set(held) == {"turn", "euler", "order", "rest"}
    assert held["euler"] == [0.0, 0.0, 0.0]


def test_any_unzip_opens_it_and_its_json_fits_the_published_schema(
    tmp_path: Path, marrow: Rig
) -> None:
    """ZIP with an uncompressed mimetype first; a JSON Schema validator reads the rest."""
    path = tmp_path / "grip.foxcard"
    path.write_bytes(card_bytes(a_card(marrow), b"PNG"))
    unzip = [sys.executable, "-m", "zipfile", "-e", str(path), str(tmp_path / "out")]
    subprocess.run(unzip, check=True)
    assert (tmp_path / "out" / "mimetype").read_bytes() == MIMETYPE
    with zipfile.ZipFile(path) as archive:
        first = archive.infolist()[0]
        assert (first.filename, first.compress_type) == ("mimetype", zipfile.ZIP_STORED)
    assert path.read_bytes()[30:38] == b"mimetype"
    schema = json.loads((DOCS / "card-3.schema.json").read_text())
    written = json.loads((tmp_path / "out" / "card.json").read_text())
    jsonschema.Draft202012Validator(schema).validate(written)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.Draft202012Validator(schema).validate({**written, "side": "upwards"})


def test_the_published_schema_is_the_one_the_program_reads_with() -> None:
    assert (DOCS / "card-3.schema.json").read_bytes() == json_schema()


def test_every_card_of_the_demo_fits_the_schema_and_has_a_picture(listed: Listed) -> None:
    schema = jsonschema.Draft202012Validator(json.loads(json_schema()))
    entries = listed(Library(shipped() / "library"))
    names = {e.sheet: {x.name for x in entries if x.sheet == e.sheet} for e in entries}
    assert len(names["Marrow/Hands"]) == 8
    assert len(names["Marrow/Face"]) == 7
    assert len(names["Marrow/Body"]) == 6
    for entry in entries:
        assert entry.error is None
        assert entry.has_picture
        with zipfile.ZipFile(entry.path) as archive:
            schema.validate(json.loads(archive.read("card.json")))
            assert archive.read("thumb.png").startswith(b"\x89PNG")


@pytest.mark.parametrize("tenth", range(10))
def test_a_card_cut_off_at_any_tenth_is_explained_and_left_alone(
    tmp_path: Path, marrow: Rig, listed: Listed, tenth: int
) -> None:
    whole = card_bytes(a_card(marrow), b"PNG" * 2000)
    library = Library.create(tmp_path / "lib", "Test")
    good = library.add(a_card(marrow, 2), None, "Hands")
    cut = good.with_name("cut.foxcard")
    cut.write_bytes(whole[: len(whole) * tenth // 10])
    before = cut.read_bytes()
    entries = {e.path.name: e for e in listed(library)}
    entry = entries["cut.foxcard"]
    assert not entry.readable
    assert entry.error is not None
    assert "cut.foxcard" in entry.error.sentence()
    assert "left as it is" in entry.error.sentence()
    assert entries[good.name].readable  # the rest loads
    with pytest.raises(FoxHandError, match="was not written"):
        library.replace(entry, a_card(marrow), None)
    assert cut.read_bytes() == before


def rewritten(whole: bytes, **members: bytes | None) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as old, zipfile.ZipFile(buffer, "w") as new:
        for name in old.namelist():
            data = members.get(name.split(".")[0], old.read(name))
            if data is not None:
                new.writestr(name, data)
    return buffer.getvalue()


@pytest.mark.parametrize(
    ("kind", "code"),
    [
        ("newer", "version.newer"),
        ("foreign json", "card.foreign"),
        ("no json", "card.foreign"),
        ("not json", "card.damaged"),
        ("wrong types", "card.damaged"),
        ("no version", "version.missing"),
        ("text", "card.foreign"),
        ("a folder's name", "card.unreadable"),
    ],
)
def test_newer_and_foreign_cards_are_listed_and_explained(
    tmp_path: Path, marrow: Rig, kind: str, code: str
) -> None:
    whole = card_bytes(a_card(marrow), b"PNG")
    with zipfile.ZipFile(io.BytesIO(whole)) as archive:
        document = json.loads(archive.read("card.json"))
    path = tmp_path / "odd.foxcard"
    if kind == "newer":
        path.write_bytes(rewritten(whole, card=json.dumps({**document, "version": 99}).encode()))
    elif kind == "foreign json":
        path.write_bytes(rewritten(whole, card=b'{"title": "a song"}'))
    elif kind == "no json":
        path.write_bytes(rewritten(whole, card=None))
    elif kind == "not json":
        path.write_bytes(rewritten(whole, card=b"\xff\xfe{"))
    elif kind == "wrong types":
        path.write_bytes(rewritten(whole, card=json.dumps({**document, "controls": 7}).encode()))
    elif kind == "no version":
        del document["version"]
        path.write_bytes(rewritten(whole, card=json.dumps(document).encode()))
    elif kind == "text":
        path.write_text("dear diary")
    else:
        path.mkdir()
    with pytest.raises(FoxHandError) as caught:
        read_card(path)
    assert caught.value.code == code
    assert "left as it is" in caught.value.sentence()


def test_a_card_without_a_picture_still_works(tmp_path: Path, marrow: Rig) -> None:
    path = tmp_path / "bare.foxcard"
    path.write_bytes(card_bytes(a_card(marrow), None))
    card, picture = read_card(path)
    assert picture is None
    assert len(card.pose) > 60


def test_turns_written_by_hand_are_made_unit_length(tmp_path: Path) -> None:
    path = tmp_path / "hand.foxcard"
    whole = card_bytes(Card("Hand made", Pose({})), None)
    with zipfile.ZipFile(io.BytesIO(whole)) as archive:
        document = json.loads(archive.read("card.json"))
    document["controls"] = {"jaw": {"turn": [0, 0, 0, 2]}}
    path.write_bytes(rewritten(whole, card=json.dumps(document).encode()))
    card, _ = read_card(path)
    assert card.pose.controls["jaw"].turn == (0, 0, 0, 1)
    document["controls"] = {"jaw": {"turn": [0, 0, 0, 2]}, "neck": {"turn": [0, 0, 0, 0]}}
    path.write_bytes(rewritten(whole, card=json.dumps(document).encode()))
    with pytest.raises(FoxHandError, match="the turn of neck has no length"):
        read_card(path)
    assert read_head(path, "").entry.error is not None


def test_every_version_is_listed_the_quick_way(tmp_path: Path, marrow: Rig) -> None:
    shipped_cards = list((shipped() / "library").rglob("*.foxcard"))
    assert {read_card(p)[0].clip is None for p in shipped_cards} == {True, False}
    for path in shipped_cards:
        assert read_quickly(path) is not None, path.name
    path = tmp_path / "old.foxcard"
    whole = card_bytes(a_card(marrow), None)
    with zipfile.ZipFile(io.BytesIO(whole)) as archive:
        document = json.loads(archive.read("card.json"))
    for version, quick in ((1, True), (VERSION, True), (VERSION + 1, False), (0, False)):
        document["version"] = version
        path.write_bytes(rewritten(whole, card=json.dumps(document).encode()))
        assert (read_quickly(path) is not None) is quick
        assert (read_head(path, "").entry.error is None) is quick


def test_every_older_version_has_a_step() -> None:
    assert set(STEPS) == set(range(1, VERSION))
    lifted = upgrade(
        {"version": 1, "a": 1},
        current=3,
        steps={1: lambda d: {**d, "b": 2}, 2: lambda d: {**d, "c": 3}},
        what="card",
    )
    assert lifted == {"version": 3, "a": 1, "b": 2, "c": 3}


def test_a_clip_that_could_not_be_read_again_is_not_written(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(container, "LARGEST_MEMBER", 1 << 20)  # with 32 MB it takes seconds
    frames = np.arange(40_000, dtype=np.float64)
    kinds = np.zeros(len(frames), dtype=np.uint8)
    origins = np.zeros(len(frames), dtype=np.intp)
    values = np.linspace(0.1, 0.9, len(frames) * 3).reshape(-1, 3)
    line = ChannelCurve(frames, values, kinds, origins)
    clip = Clip({ChannelId(ChannelKind.MOVE, "hips"): line}, float(len(frames)), 24.0)
    with pytest.raises(FoxHandError) as caught:
        card_bytes(Card("Endless", Pose({}), kind="clip", clip=clip), None)
    assert caught.value.code == "card.too_large"
    assert "Take fewer" in caught.value.todo
