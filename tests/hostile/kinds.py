"""Ten kinds of hostile files, each with the command that meets it."""

from __future__ import annotations

import io
import json
import shutil
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from fox_hand.core.pose.pose import Held, Pose
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import card_bytes
from fox_hand.library.store.store import Library
from tests.hostile.documents import NAMES, NUMBERS, Document, broken_texts, changed, each, set_to
from tests.hostile.places import PLACES

CAST = shipped() / "cast"
GOOD = Card("Good", Pose({"jaw": Held(turn=(0.0, 0.0, 0.0, 1.0))}))


@dataclass(frozen=True)
class Case:
    """One hostile file.

    Args:
        kind, name: which.
        arguments: the command that meets it.
        expects: what must be printed all the same, such as the other cards of a library.
    """

    kind: str
    name: str
    arguments: list[str]
    expects: str = ""


Maker = Callable[[Path], Iterator[Case]]


def all_cases(folder: Path) -> Iterator[Case]:
    """Every case; the files are made below a folder, one kind after the other."""
    for kind, maker in KINDS.items():
        place = folder / kind
        place.mkdir(parents=True)
        yield from maker(place)


def _each_file(
    folder: Path, suffix: str, contents: Iterator[tuple[str, bytes]]
) -> Iterator[tuple[str, Path]]:
    """The contents as files, and what is no file at all in the place of one."""
    for number, (name, data) in enumerate(contents):
        path = folder / f"{number}{suffix}"
        path.write_bytes(data)
        yield name, path
        path.unlink(missing_ok=True)
    for number, (name, make) in enumerate(PLACES.items()):
        path = folder / f"place {number}{suffix}"
        make(path)
        yield name, path


def zipped(members: dict[str, bytes], packed: int = zipfile.ZIP_STORED) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", packed) as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return buffer.getvalue()


def _members(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def bombs(whole: bytes, text: str) -> Iterator[tuple[str, bytes]]:
    """ZIP files that unpack to far more, say one thing and hold another, or are locked."""
    members = _members(whole)
    yield "a bomb", zipped({**members, text: b" " * (300 << 20)}, zipfile.ZIP_DEFLATED)
    locked = bytearray(zipped(members))
    for sign, at in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        place = locked.find(sign)
        while place >= 0:
            locked[place + at] |= 1
            place = locked.find(sign, place + 4)
    yield "locked with a password", bytes(locked)
    yield "many members", zipped({**members, **{f"{i}": b"" for i in range(60_000)}})
    yield "members of one name", _twice(members)
    yield "an unknown packing", whole.replace(b"PK\x01\x02", b"PK\x01\x02", 1)[:-22] + whole[-22:]
    yield "another before it", b"MZ" * 5000 + whole
    lying = bytearray(whole)
    struct.pack_into("<H", lying, len(lying) - 12, 65_535)
    yield "a count that lies", bytes(lying)
    yield "names outside", zipped({**members, "../../out": b"x", "/etc/x": b"x", "a\\..\\b": b"x"})


def _twice(members: dict[str, bytes]) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        for name, data in [*members.items(), *members.items()]:
            archive.writestr(name, data)
    return buffer.getvalue()


def _card_texts() -> Iterator[tuple[str, bytes]]:
    members = _members(card_bytes(GOOD, None))
    whole = members["card.json"]
    document: Document = json.loads(whole)
    texts = [
        *broken_texts(whole),
        *changed(
            document,
            {
                **each("revision", values=NUMBERS),
                **each("name", values=NAMES),
                **each("controls", "jaw", "turn", 0, values=NUMBERS),
                "no length": set_to("controls", "jaw", "turn", value=[0, 0, 0, 0]),
                "a million controls": set_to(
                    "controls", value={f"c{i}": {"move": [0, 0, 0]} for i in range(200_000)}
                ),
                "keys at 1e308": set_to(
                    "clip",
                    value={
                        "length": 1e308,
                        "rate": -24,
                        "lines": [
                            {
                                "kind": "turn",
                                "name": "jaw",
                                "frames": [1],
                                "values": [[1]],
                                "eases": "",
                            }
                        ],
                    },
                ),
            },
        ),
    ]
    for name, text in texts:
        yield name, zipped({**members, "card.json": text})
    yield from bombs(card_bytes(GOOD, None), "card.json")
    yield "no zip", b"PK\x03\x04" + b"\0" * 100


def cards(folder: Path) -> Iterator[Case]:
    for name, path in _each_file(folder, ".foxcard", _card_texts()):
        yield Case("card", name, ["card", "show", str(path)])


def libraries(folder: Path) -> Iterator[Case]:
    """The same in a library: all others are listed."""
    library = Library.create(folder, "Hostile")
    library.add(GOOD, None, "Sheet")
    for name, path in _each_file(folder / "Sheet", ".foxcard", _card_texts()):
        yield Case("library", name, ["library", "list", str(folder)], "Good")
        if path.is_dir() and not path.is_symlink():
            path.rmdir()
        else:
            path.unlink(missing_ok=True)
    odd = [
        b"bad \xff name.foxcard",
        b"line\nend.foxcard",
        b"esc\x1b[31m.foxcard",
        b"bad \xfe sheet",
    ]
    for raw in odd:
        path = Path(str(folder / "Sheet")) / raw.decode("utf-8", "surrogateescape")
        path.write_bytes(card_bytes(GOOD, None)) if raw.endswith(b"card") else path.mkdir()
        yield Case("library", repr(raw), ["library", "list", str(folder)], "Good")
        yield Case("library", f"check {raw!r}", ["library", "check", str(folder)])


def descriptions(folder: Path) -> Iterator[Case]:
    """``sheet.toml`` and ``library.toml``."""
    texts = {
        "empty": b"",
        "zeros": b"\0" * 999,
        "no text": b"\xff\xfe\0",
        "deep": b"a = " + b"[" * 50_000 + b"]" * 50_000,
        "a name of names": b".".join([b"a"] * 100_000) + b" = 1",
        "a table of names": b"[" + b".".join([b"a"] * 100_000) + b"]",
        "large": b"# " + b"x" * (20 << 20),
        "newer": b"version = 99\n",
        "wrong kinds": b"version = 1\nname = 7\nsheets = 3\ncards = {}\ncolour = []\ncapture = 1\n",
        "huge": b"version = 999999999999999999999999999\n",
        "twice": b"version = 1\nversion = 1\n",
    }
    for target in ("sheet", "library"):
        for number, name in enumerate([*texts, *PLACES]):
            place = folder / f"{target} {number}"
            library = Library.create(place, "Hostile")
            library.add(GOOD, None, "Sheet")
            path = place / ("Sheet/sheet.toml" if target == "sheet" else "library.toml")
            path.unlink(missing_ok=True)
            if name in texts:
                path.write_bytes(texts[name])
            else:
                PLACES[name](path)
            expects = "Good" if target == "sheet" else ""
            yield Case("description", f"{target}: {name}", ["library", "list", str(place)], expects)


def _gltf_texts() -> Iterator[tuple[str, bytes]]:
    whole = (CAST / "pim.glb").read_bytes()
    length = struct.unpack_from("<I", whole, 12)[0]
    text, rest = whole[20 : 20 + length], whole[20 + length :]
    document: Document = json.loads(text)
    nodes = len(document["nodes"])
    changes = {
        **each("accessors", 0, "count", values=NUMBERS),
        **each("bufferViews", 0, "byteStride", values=NUMBERS),
        **each("bufferViews", 0, "byteLength", values=NUMBERS),
        **each("nodes", 0, "scale", values=([0, 0, 0], [1e308] * 3, [-1, 1, 1], [1])),
        **each("nodes", 0, "rotation", values=([0, 0, 0, 0], [1e308] * 4, [9, 9, 9, 9])),
        **each("nodes", 0, "name", values=NAMES),
        **each("buffers", 0, "byteLength", values=NUMBERS),
        **each(
            "buffers",
            0,
            "uri",
            values=(
                "/etc/passwd",
                "../../x",
                "/dev/zero",
                "file:///dev/zero",
                "a\0b",
                "http://x/y",
            ),
        ),
        "a circle of nodes": set_to("nodes", 0, "children", value=[0]),
        "a chain of nodes": lambda d: d["nodes"].extend(
            {"children": [nodes + i + 1]} if i < 199_999 else {} for i in range(200_000)
        ),
        "a million nodes": lambda d: d["nodes"].extend({} for _ in range(1_000_000)),
        "a million targets": lambda d: d["meshes"][0]["primitives"][0].update(
            targets=[{"POSITION": 0}] * 300_000
        ),
        "a million accessors": lambda d: d["accessors"].extend([d["accessors"][0]] * 350_000),
    }
    for name, bare in [*broken_texts(text), *changed(document, changes)]:
        new = bare + b" " * (-len(bare) % 4)
        head = struct.pack("<4sII", b"glTF", 2, 20 + len(new) + len(rest))
        yield name, head + struct.pack("<I4s", len(new), b"JSON") + new + rest


def rigs(folder: Path) -> Iterator[Case]:
    for name, path in _each_file(folder, ".glb", _gltf_texts()):
        yield Case("rig", name, ["rig", "inspect", str(path)])


def _bvh_texts() -> Iterator[tuple[str, bytes]]:
    turns = "Zrotation Xrotation Yrotation"
    joint = f"ROOT hips\n{{\nOFFSET 0 0 0\nCHANNELS 6 Xposition Yposition Zposition {turns}\n"
    end = "End Site\n{\nOFFSET 0 1 0\n}\n}\n"
    motion = "MOTION\nFrames: {0}\nFrame Time: {1}\n{2}\n"
    whole = f"HIERARCHY\n{joint}{end}"
    row = "0 0 0 0 0 0"
    for count, seconds, values in [
        ("999999999999999999", "0.04", row),
        ("-1", "0.04", row),
        ("2", "0", row),
        ("2", "-1", row),
        ("2", "nan", row),
        ("2", "1e308", row),
        ("1", "0.04", "1e308 nan inf -inf 0 0"),
        ("1", "0.04", "a b c d e f"),
        ("1", "0.04", "0"),
    ]:
        text = whole + motion.format(count, seconds, values)
        yield f"{count} frames of {seconds} with {values[:9]}", text.encode()
    inner = "JOINT j\n{\nOFFSET 0 1 0\nCHANNELS 3 Zrotation Xrotation Yrotation\n"
    deep = f"HIERARCHY\n{joint}" + inner * 100_000 + end + "}\n" * 100_000
    yield "a chain of joints", deep.encode()
    many = whole.replace(
        "End Site", (inner + "End Site\n{\nOFFSET 0 0 0\n}\n}\n") * 60_000 + "End Site"
    )
    yield "many joints", many.encode()
    yield "no hierarchy", b"MOTION\nFrames: 1\n"
    yield "names", whole.replace("hips", "\u202egnp\x00\x07").encode()
    yield "channels", whole.replace("CHANNELS 6", "CHANNELS 999999999").encode()
    yield "one long line", b"HIERARCHY " + b"x" * (40 << 20)
    yield "no text", bytes(range(256)) * 1000
    yield "empty", b""


def motions(folder: Path) -> Iterator[Case]:
    for name, path in _each_file(folder, ".bvh", _bvh_texts()):
        yield Case("motion", name, ["convert", str(path), "-o", str(folder / "out.glb"), "--force"])


def _usd_texts() -> Iterator[tuple[str, bytes]]:
    head = '#usda 1.0\n(\n    upAxis = "Y"\n    metersPerUnit = {}\n)\n'
    for unit in ("0", "-1", "nan", "1e308", "inf"):
        yield f"unit {unit}", head.format(unit).encode() + b'def Xform "a"\n{\n}\n'
    for path in ("/etc/passwd", "../../../../etc/hosts", "/dev/zero", "http://x/y.usda"):
        text = f'#usda 1.0\n(\n    subLayers = [@{path}@]\n)\ndef SkelRoot "a"\n{{\n}}\n'
        yield f"a layer {path}", text.encode()
        text = f'#usda 1.0\ndef SkelRoot "a" (\n    prepend references = @{path}@\n)\n{{\n}}\n'
        yield f"a reference {path}", text.encode()
    yield "deep", b"#usda 1.0\n" + b'def Xform "a" {\n' * 20_000 + b"}\n" * 20_000
    skeleton = (
        '#usda 1.0\ndef SkelRoot "r"\n{{\n    def Skeleton "s"\n    {{\n'
        "        uniform token[] joints = [{}]\n"
        "        uniform matrix4d[] bindTransforms = [{}]\n"
        "        uniform matrix4d[] restTransforms = [{}]\n    }}\n}}\n"
    )
    one = "((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1))"
    zero = "((0,0,0,0),(0,0,0,0),(0,0,0,0),(0,0,0,0))"
    wide = "((1e308,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,nan))"
    for name, matrix in (("zero", zero), ("wide", wide)):
        yield f"{name} matrices", skeleton.format('"a"', matrix, matrix).encode()
    yield "fewer matrices", skeleton.format('"a", "a/b"', one, "").encode()
    yield "twice", skeleton.format('"a", "a"', f"{one}, {one}", f"{one}, {one}").encode()
    yield "a joint of a joint", skeleton.format('"a/a/a/a", "b"', f"{one}, {one}", one).encode()
    yield "no text", bytes(range(256)) * 1000
    yield "empty", b""
    yield "crate cut", b"PXR-USDC" + b"\0" * 200


def stages(folder: Path) -> Iterator[Case]:
    for name, path in _each_file(folder, ".usda", _usd_texts()):
        yield Case("usd", name, ["rig", "inspect", str(path)])


def _shot_texts() -> Iterator[tuple[str, bytes]]:
    member = {"prefix": "pim", "path": str(CAST / "pim.glb"), "name": "Pim"}
    document: Document = {
        "format": "fox-hand shot",
        "version": 1,
        "time": {"first": 1, "last": 24, "rate": 24.0},
        "members": [member],
        "boards": [{"path": "x.png"}],
    }
    whole = json.dumps(document).encode()
    line = {"kind": "turn", "name": "jaw", "frames": [1], "values": [[1]], "eases": "s"}
    yield from broken_texts(whole)
    yield from changed(
        document,
        {
            **each("time", "rate", values=NUMBERS),
            **each("time", "last", values=NUMBERS),
            **each("members", 0, "name", values=NAMES),
            **each("members", 0, "path", values=("/dev/zero", "/", "", "a\0b", "x" * 5000)),
            **each("boards", 0, "width", values=NUMBERS),
            "a thousand members": set_to("members", value=[member] * 1000),
            "values": set_to("members", 0, "move", value={"hips": [1e308, 0, 0]}),
            "a key": set_to("members", 0, "keys", value=[line]),
            "keys": set_to("members", 0, "keys", value=[line] * 30_000),
        },
    )


def shots(folder: Path) -> Iterator[Case]:
    for name, path in _each_file(folder, ".foxshot", _shot_texts()):
        yield Case("shot", name, ["shot", "check", str(path)])


def _pack_texts() -> Iterator[tuple[str, bytes]]:
    good = card_bytes(GOOD, None)
    row = {"file": "cards/a.foxcard", "id": GOOD.identity, "name": "Good", "sheet": "Sheet"}
    document: Document = {
        "format": "fox-hand pack",
        "version": 1,
        "name": "P",
        "cards": [row],
    }
    whole = json.dumps(document).encode()

    def packed(text: bytes, card: bytes = good) -> bytes:
        return zipped({"mimetype": b"x", "pack.json": text, "cards/a.foxcard": card})

    sheets = (
        ".foxhand/removed",
        "removed/2026-01-01/x",
        "../../out",
        "/etc",
        "a/../../b",
        ".",
        "~",
    )
    for name, text in [
        *broken_texts(whole),
        *changed(
            document,
            {
                **each("cards", 0, "sheet", values=(*sheets, *NAMES)),
                **each("cards", 0, "file", values=("../x", "/etc/passwd", "", "pack.json")),
                **each("cards", 0, "name", values=NAMES),
                "many cards": set_to("cards", value=[row] * 3000),
            },
        ),
    ]:
        yield name, packed(text)
    yield "a card that is none", packed(whole, b"no card")
    yield "a card that is a bomb", packed(whole, next(bombs(good, "card.json"))[1])
    yield from bombs(packed(whole), "pack.json")


def packs(folder: Path) -> Iterator[Case]:
    library = folder / "library"
    Library.create(library, "Mine")
    for name, path in _each_file(folder, ".foxpack", _pack_texts()):
        yield Case("pack", name, ["library", "take-in", str(library), str(path)])


def sidecars(folder: Path) -> Iterator[Case]:
    whole = (CAST / "pim.foxrig.json").read_bytes()
    document: Document = json.loads(whole)
    changes = {
        **each("metres_per_unit", values=NUMBERS),
        **each("version", values=NUMBERS),
        **each("name", values=NAMES),
        "controls": set_to("controls", value={f"c{i}": {} for i in range(200_000)}),
    }
    rig = (CAST / "pim.glb").read_bytes()
    for name, path in _each_file(
        folder, ".foxrig.json", iter([*broken_texts(whole), *changed(document, changes)])
    ):
        beside = folder / f"{path.name.removesuffix('.foxrig.json')}.glb"
        beside.write_bytes(rig)
        yield Case("sidecar", name, ["rig", "inspect", str(beside)])
        beside.unlink()


def png(width: int, height: int) -> bytes:
    """A picture of one colour, as small as it can be packed (PNG, third edition, 11.2)."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    packer = zlib.compressobj(9)
    row = b"\0" + b"\0" * (width * 3)
    rows = b"".join(packer.compress(row) for _ in range(min(height, 20_000))) + packer.flush()
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def pictures(folder: Path) -> Iterator[Case]:
    """In cards that are put on a contact sheet."""
    bomb = png(20_000, 20_000)
    texts = {
        "a bomb": bomb,
        "wide": png(2_000_000, 1),
        "sizes that lie": bomb.replace(struct.pack(">II", 20_000, 20_000), b"\xff" * 8),
        "no size": b"\x89PNG\r\n\x1a\n" + b"\0" * 50,
        "cut": png(300, 300)[:80],
        "not one": b"GIF89a" + b"\0" * 20,
        "empty": b"",
        "webp": b"RIFF\xff\xff\xff\xffWEBPVP8 " + b"\0" * 30,
        "text": b"<svg xmlns='http://www.w3.org/2000/svg'/>",
    }
    for number, (name, data) in enumerate(texts.items()):
        for large in (False, True):
            place = folder / f"{number} {large}"
            library = Library.create(place, "Pictures")
            library.add(GOOD, png(8, 8) if large else data, "", data if large else None)
            out = str(folder / f"{number} {large}.png")
            name_ = f"{name}, {'large' if large else 'small'}"
            yield Case("picture", name_, ["sheet", str(place), "-o", out])
    _textures(folder / "textures", texts)
    for path in sorted((folder / "textures").glob("*.gltf")):
        yield Case("picture", f"texture {path.stem}", ["rig", "inspect", str(path)])


def _textures(folder: Path, texts: dict[str, bytes]) -> None:
    """As textures beside a character."""
    folder.mkdir()
    whole = (CAST / "pim.glb").read_bytes()
    length = struct.unpack_from("<I", whole, 12)[0]
    document: Document = json.loads(whole[20 : 20 + length])
    (folder / "pim.bin").write_bytes(whole[28 + length :])
    document["buffers"][0]["uri"] = "pim.bin"
    document["textures"] = [{"source": 0}]
    document["materials"] = [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]
    for mesh in document["meshes"]:
        for primitive in mesh["primitives"]:
            primitive["material"] = 0
    for name, data in texts.items():
        (folder / f"{name}.png").write_bytes(data)
        document["images"] = [{"uri": f"{name}.png"}]
        (folder / f"{name}.gltf").write_text(json.dumps(document))
    shutil.copy(folder / "a bomb.png", folder / "same.png")


KINDS: dict[str, Maker] = {
    "card": cards,
    "library": libraries,
    "description": descriptions,
    "rig": rigs,
    "motion": motions,
    "usd": stages,
    "shot": shots,
    "pack": packs,
    "sidecar": sidecars,
    "picture": pictures,
}
