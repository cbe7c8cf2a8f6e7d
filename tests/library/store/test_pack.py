"""Packs: what is in them, what is new, and that nothing of one's own is lost by taking one in."""

from __future__ import annotations

import zipfile
from dataclasses import replace
from pathlib import Path

import jsonschema
import msgspec
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.head import read_head
from fox_hand.library.format.library_file import read_library_file
from fox_hand.library.format.name_map import NameMap, read_map, write_map
from fox_hand.library.store.pack import (
    News,
    Offer,
    PackedCard,
    TakeIn,
    json_schema,
    offers,
    read_pack,
    take_in,
    take_in_extras,
    write_pack,
)
from fox_hand.library.store.pack_extras import Extras
from fox_hand.library.store.sheets import Habit, Sheet, order_sheets, read_sheet, write_sheet
from fox_hand.library.store.store import Library

FORMATS = Path(__file__).parents[3] / "docs" / "format"


def entries(library: Library) -> list[Entry]:
    found = []
    for path in sorted(library.folder.rglob("*.foxcard")):
        if ".foxhand" not in path.parts:
            sheet = path.parent.relative_to(library.folder).as_posix()
            found.append(read_head(path, "" if sheet == "." else sheet).entry)
    return found


def pose(value: float) -> Pose:
    return Pose({"arm_L": Held(move=(value, 0.0, 0.0))})


@pytest.fixture
def theirs(tmp_path: Path) -> Library:
    library = Library.create(tmp_path / "theirs", "Theirs")
    library.add(Card("Wave", pose(1.0), author="Ines"), b"wave picture", "Body", b"large")
    library.add(Card("Fist", pose(2.0)), None, "Hands/Left")
    return library


def by_id(library: Library):
    return {e.identity: e for e in entries(library)}.get


def test_a_pack_is_taken_in_whole_and_again_changes_nothing(
    theirs: Library, tmp_path: Path
) -> None:
    pack = tmp_path / "crew.foxpack"
    assert write_pack(pack, "Crew", entries(theirs)) == 2
    with zipfile.ZipFile(pack) as archive:
        assert archive.namelist()[0] == "mimetype"
        assert archive.testzip() is None
        assert {i.date_time for i in archive.infolist()} == {(2000, 1, 1, 0, 0, 0)}
        assert {i.external_attr >> 16 for i in archive.infolist()} == {0o644}
        written = msgspec.json.decode(archive.read("pack.json"))
    jsonschema.validate(written, msgspec.json.decode(json_schema()))
    assert (FORMATS / "foxpack-1.schema.json").read_bytes() == json_schema()
    mine = Library.create(tmp_path / "mine", "Mine")
    found = offers(pack, by_id(mine))
    assert {o.news for o in found} == {News.NEW}
    for offer in found:
        assert take_in(mine, pack, offer, None, offer.usual) is not None
    taken = {e.name: e for e in entries(mine)}
    assert {(e.name, e.sheet) for e in taken.values()} == {("Wave", "Body"), ("Fist", "Hands/Left")}
    for entry in entries(theirs):
        assert taken[entry.name].path.read_bytes() == entry.path.read_bytes()
    again = offers(pack, by_id(mine))
    assert {o.news for o in again} == {News.SAME}
    assert all(take_in(mine, pack, o, None, o.usual) is None for o in again)
    assert len(entries(mine)) == 2


@pytest.mark.parametrize("what", [TakeIn.BOTH, TakeIn.THEIRS, TakeIn.LEAVE])
def test_where_both_have_a_card_each_choice_keeps_what_it_says(
    theirs: Library, tmp_path: Path, what: TakeIn
) -> None:
    pack, mine = tmp_path / "crew.foxpack", Library.create(tmp_path / "mine", "Mine")
    write_pack(pack, "Crew", entries(theirs))
    for offer in offers(pack, by_id(mine)):
        take_in(mine, pack, offer, None, offer.usual)
    own = next(e for e in entries(mine) if e.name == "Wave")
    mine.replace(own, replace(read_card(own.path)[0], pose=pose(7.0)), None)
    own = next(e for e in entries(mine) if e.name == "Wave")
    (offer,) = (o for o in offers(pack, by_id(mine)) if o.news is News.DIFFERENT)
    assert (offer.card.revision, offer.own_revision) == (1, 2)
    assert offer.usual is TakeIn.BOTH
    done = take_in(mine, pack, offer, own, what)
    values = {e.name: read_card(e.path)[0].pose.controls["arm_L"].move[0] for e in entries(mine)}
    values.pop("Fist")
    assert (
        values
        == {
            TakeIn.BOTH: {"Wave": 7.0, "Wave, theirs": 1.0},
            TakeIn.THEIRS: {"Wave": 1.0},
            TakeIn.LEAVE: {"Wave": 7.0},
        }[what]
    )
    if what is TakeIn.THEIRS:
        assert mine.versions(own.identity)  # mine is an earlier version now
    if done is not None:
        done.undo()
        back = {e.name: read_card(e.path)[0].pose.controls["arm_L"].move[0] for e in entries(mine)}
        assert back == {"Wave": 7.0, "Fist": 2.0}


def test_a_pack_cannot_write_outside_the_library(theirs: Library, tmp_path: Path) -> None:
    pack = tmp_path / "bad.foxpack"
    write_pack(pack, "Bad", entries(theirs))
    data = {}
    with zipfile.ZipFile(pack) as archive:
        for name in archive.namelist():
            data[name] = archive.read(name)
    listed = msgspec.json.decode(data["pack.json"])
    listed["cards"][0]["sheet"] = "../../.foxhand/../outside"
    listed["cards"].append({**listed["cards"][0], "sheet": "Removed/2026-01-01"})
    listed["sheets"] = [{"sheet": "../../.foxhand/elsewhere"}]
    listed["cards"][1] |= {"sheet": "~root/con", "name": "two\nlines\u202egnp.drac"}
    data["pack.json"] = msgspec.json.encode(listed)
    with zipfile.ZipFile(pack, "w") as archive:
        for name, content in data.items():
            archive.writestr(name, content)
    read = read_pack(pack)
    assert [s.sheet for s in read.sheets] == ["elsewhere"]
    first, second, third = read.cards
    assert third.sheet == "Removed (pack)/2026-01-01"  # nobody takes it for what was taken out
    assert first.sheet == "outside"
    assert (second.sheet, second.name) == ("root/con_", "two lines gnp.drac")
    assert [offer.reworded for offer in offers(pack, lambda _: None)] == [True, True, True]


@pytest.mark.parametrize(
    ("data", "code"),
    [(b"", "pack.damaged"), (b"PK\x03\x04 cut off", "pack.damaged"), (b"{}", "pack.damaged")],
)
def test_what_is_no_pack_is_told_and_left(tmp_path: Path, data: bytes, code: str) -> None:
    path = tmp_path / "x.foxpack"
    path.write_bytes(data)
    with pytest.raises(FoxHandError) as caught:
        offers(path, lambda _: None)
    assert caught.value.code == code
    assert path.read_bytes() == data


def test_a_damaged_card_in_a_pack_is_refused_alone(theirs: Library, tmp_path: Path) -> None:
    mine, pack = Library.create(tmp_path / "mine", "Mine"), tmp_path / "crew.foxpack"
    with zipfile.ZipFile(pack, "w") as archive:
        archive.writestr("cards/broken.foxcard", b"not a card")
    offer = Offer(PackedCard("cards/broken.foxcard", "0" * 12, "Broken"), News.NEW)
    with pytest.raises(FoxHandError):
        take_in(mine, pack, offer, None, TakeIn.ADD)
    assert entries(mine) == []
    assert theirs.writable


def test_sheets_names_and_rigs_travel_with_the_cards_and_nothing_of_ones_own_is_changed(
    theirs: Library, tmp_path: Path
) -> None:
    fist = next(e for e in entries(theirs) if e.name == "Fist")
    habit = Habit(("turn",), regions=("hands",), left_out=("curl",))
    write_sheet(theirs, "Hands/Left", Sheet("#5FB3A3", (fist.identity,), "", habit, fist.identity))
    write_sheet(theirs, "Body", Sheet("#C98A93"))
    order_sheets(theirs, ("Hands", "Hands/Left", "Body"))
    said = NameMap("Marrow", "Quill", names={"arm_L": "LeftArm", "tail": None})
    write_map(theirs.own, said)
    sidecar = tmp_path / "quill.foxrig.json"
    sidecar.write_text('{"format": "fox-hand rig"}')
    pack = tmp_path / "crew.foxpack"
    write_pack(pack, "Crew", entries(theirs), extras=Extras.of_rigs((tmp_path / "quill.glb",)))

    mine = Library.create(tmp_path / "mine", "Mine", ("Body",))
    mine.add(Card("Own", pose(3.0)), None, "Body")
    write_sheet(mine, "Body", Sheet("#6FA3D8"))
    before = {p: p.read_bytes() for p in mine.folder.rglob("*") if p.is_file()}
    for offer in offers(pack, by_id(mine)):
        take_in(mine, pack, offer, None, offer.usual)
    done = take_in_extras(mine, pack)
    assert done is not None
    assert read_sheet(mine, "Hands/Left") == read_sheet(theirs, "Hands/Left")
    assert read_sheet(mine, "Body").colour == "#6FA3D8"  # one's own stays
    assert read_library_file(mine.folder).sheets == ("Body", "Hands", "Hands/Left")
    assert read_map(mine.own, "Marrow", "Quill") == said
    assert (mine.own / "rigs" / "quill.foxrig.json").read_bytes() == sidecar.read_bytes()
    assert take_in_extras(mine, pack) is None
    redo = done.undo()
    assert read_sheet(mine, "Hands/Left") == Sheet()
    assert read_map(mine.own, "Marrow", "Quill").names == {}
    assert all(path.read_bytes() == data for path, data in before.items())
    redo.undo()
    assert read_map(mine.own, "Marrow", "Quill") == said

    plain = tmp_path / "plain.foxpack"
    write_pack(plain, "Crew", entries(theirs))
    file = read_pack(plain)
    assert (file.maps, file.rigs) == ([], [])
    assert [s.sheet for s in file.sheets] == ["Hands", "Hands/Left", "Body"]


def test_what_a_pack_says_wrongly_or_of_cards_that_were_left_is_not_taken_in(
    theirs: Library, tmp_path: Path
) -> None:
    write_sheet(theirs, "Body", Sheet("#C98A93"))
    (theirs.own / "maps").mkdir(parents=True)
    (theirs.own / "maps" / "A to B.json").write_text("{")
    pack = tmp_path / "crew.foxpack"
    write_pack(pack, "Crew", entries(theirs), extras=Extras(maps=True))
    mine = Library.create(tmp_path / "mine", "Mine")
    assert take_in_extras(mine, pack) is None
    assert not (mine.folder / "Body").exists()
    assert not (mine.own / "maps").exists()
