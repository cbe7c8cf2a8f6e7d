"""Folders of drawings and OpenRaster files, as an independent library writes and reads them."""

from __future__ import annotations

import io
import os
import struct
import zipfile
import zlib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pyora import Project

from fox_hand.base.errors import FoxHandError
from fox_hand.core.puppet.drawn import DrawnFigure
from fox_hand.interchange.drawings.layers import view_named
from fox_hand.interchange.drawings.open_raster import StackLayer, open_raster_bytes
from fox_hand.interchange.drawings.reading import read_drawings
from fox_hand.interchange.drawings.svg import MOST_SIDE, SvgRefusedError, svg_picture
from tests.puppets import SIZE, as_folder, bird, blob, flat, png_bytes

SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '


def svg(body: str, size: str = 'width="40" height="20"') -> bytes:
    return f"{SVG} {size}>{body}</svg>".encode()


def names(figure: DrawnFigure) -> list[tuple[str, str, list[str]]]:
    return [(p.view, p.name, [d.name for d in p.drawings]) for p in figure.parts]


def test_folders_are_parts_and_files_take_turns(tmp_path: Path) -> None:
    found = read_drawings(as_folder(tmp_path / "bird", bird()))
    assert (found.name, found.width, found.height) == ("bird", *SIZE)
    assert [part.name for part in found.parts][:3] == ["Near wing", "Near wing tip", "Eye"]
    beak = next(part for part in found.parts if part.name == "Beak")
    assert [d.name for d in beak.drawings] == ["open", "shout", "shut"]
    assert beak.drawings[0].source == "04 Beak/open.png"
    assert found.notes == ()


def test_views_are_told_by_their_folders(tmp_path: Path) -> None:
    for view in ("Side", "front view", "Back"):
        as_folder(tmp_path / view, {"Head": blob(260, 95, 90, 80, "white")})
    blob(10, 10, 9, 9, "red").save(tmp_path / "Ticket.png")
    figure = read_drawings(tmp_path)
    found = names(figure)
    assert figure.views == ("Side", "Front", "Back")
    assert ("Front", "Head", ["Head"]) in found and ("Side", "Head", ["Head"]) in found
    assert ("Side", "Ticket", ["Ticket"]) in found  # what is in none, is in the side view
    said = {n: view_named(n) for n in ("01_Front view", "3/4", "three quarter", "profile")}
    assert list(said.values()) == ["Front", "Half", "Half", "Side"]
    assert view_named("Front leg") is None and view_named("sideburns") is None


def test_small_drawings_lie_in_the_middle_until_they_are_moved(tmp_path: Path) -> None:
    Image.new("RGBA", (100, 60), "red").save(tmp_path / "Body.png")
    Image.new("RGBA", (20, 20), "blue").save(tmp_path / "Eye.webp", lossless=True)
    found = read_drawings(tmp_path)
    eye = next(part for part in found.parts if part.name == "Eye").seen
    assert (eye.left, eye.top) == (40, 20)
    assert "1 of 2 drawings is smaller than the canvas of 100 by 60" in found.notes[0]


def huge(width: int, height: int) -> bytes:
    """The head of a PNG that says it is this large."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    pixels = zlib.compress(b"\0" * 1000)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", pixels) + chunk(b"IEND", b"")
    )


def test_what_cannot_be_drawn_is_left_out_with_the_reason(tmp_path: Path) -> None:
    folder = tmp_path / "in"
    folder.mkdir()
    blob(200, 150, 100, 80, "white").save(folder / "Body.png")
    (folder / "Huge.png").write_bytes(huge(50_000, 50_000))
    (folder / "Cut.png").write_bytes(png_bytes(blob(9, 9, 9, 9, "red"))[:60])
    (folder / "None.png").write_bytes(b"")
    Image.new("RGBA", SIZE).save(folder / "Empty.png")
    (folder / "Note.txt").write_text("not drawn")
    (folder / ".hidden.png").write_bytes(b"x")
    blob(9, 9, 9, 9, "red").save(tmp_path / "Elsewhere.png")
    (folder / "Link.png").symlink_to(tmp_path / "Elsewhere.png")
    (folder / "Up").symlink_to(tmp_path)
    os.mkfifo(folder / "Pipe.png")
    found = read_drawings(folder)
    assert names(found) == [("", "Body", ["Body"])]
    said = " ".join(found.notes)
    assert "Huge is left out: it is 50 000 by 50 000 pixels large." in said
    assert "Empty is left out: nothing is drawn in it." in said
    for name in ("Cut", "None", "Pipe.png"):
        assert f"{name} is left out" in said
    assert said.count("it leads out of the folder") == 2
    assert len(found.notes) == 7


@pytest.mark.parametrize("kind", ["empty folder", "text", "missing", "no zip"])
def test_what_holds_no_drawings_is_refused(kind: str, tmp_path: Path) -> None:
    path = tmp_path / "thing.ora"
    if kind == "empty folder":
        path = tmp_path / "empty"
        path.mkdir()
    elif kind == "text":
        path = tmp_path / "thing.txt"
        path.write_text("words")
    elif kind == "no zip":
        path.write_text("words")
    with pytest.raises(FoxHandError) as error:
        read_drawings(path)
    assert error.value.sentence().endswith(".") and error.value.kept


def test_svg_drawings_are_drawn_at_their_size_and_nothing_else_is_looked_at(tmp_path: Path) -> None:
    (tmp_path / "Body.svg").write_bytes(svg('<rect x="10" width="20" height="20" fill="#ff0000"/>'))
    pixels = read_drawings(tmp_path).parts[0].seen.pixels()
    assert pixels.shape == (20, 40, 4)
    assert pixels[10, 20].tolist() == [255, 0, 0, 255] and pixels[10, 2, 3] == 0
    large = svg("<circle r='50000'/>", 'width="90000" height="30000"')
    with Image.open(io.BytesIO(svg_picture(large))) as picture:
        assert max(picture.size) == MOST_SIDE  # drawn smaller, not left out
    (tmp_path / "secret.png").write_bytes(png_bytes(Image.new("RGBA", (9, 9), "lime")))
    with pytest.raises(SvgRefusedError, match="pixels large"):
        svg_picture(svg("<rect/>", 'width="9e9" height="3"'))


@pytest.mark.parametrize(
    "body",
    [
        "<script>alert(1)</script>",
        '<rect width="9" height="9" onclick="x()"/>',
        '<image href="http://example.org/a.png" width="9" height="9"/>',
        '<image xlink:href="secret.png" width="9" height="9"/>',
        '<image href="file:///etc/passwd" width="9" height="9"/>',
        '<use href="other.svg#a"/>',
        '<rect width="9" height="9" fill="url(http://example.org/x#a)"/>',
        '<style>@import url("http://example.org/a.css");</style>',
        '<foreignObject><p xmlns="http://www.w3.org/1999/xhtml"/></foreignObject>',
        "<g id='a0'><rect/></g>"
        + "".join(f"<g id='a{n}'>" + f"<use href='#a{n - 1}'/>" * 12 + "</g>" for n in range(1, 9)),
        "<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g>",
        "<g>" * 300 + "</g>" * 300,
    ],
)
def test_svg_drawings_with_scripts_or_ways_out_are_refused(body: str, tmp_path: Path) -> None:
    with pytest.raises(SvgRefusedError):
        svg_picture(svg(body))
    (tmp_path / "Evil.svg").write_bytes(svg(body))
    blob(200, 150, 100, 80, "white").save(tmp_path / "Body.png")
    found = read_drawings(tmp_path)
    assert [part.name for part in found.parts] == ["Body"]
    assert found.notes[0].startswith("Evil.svg is left out: it")


def test_entities_that_grow_are_refused() -> None:
    text = b'<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>' + svg("<text>&b;</text>")
    with pytest.raises(SvgRefusedError, match="entities"):
        svg_picture(text)


# -- OpenRaster -------------------------------------------------------------------------------


def layered(path: Path) -> Path:
    """What an independent library writes."""
    project = Project.new(*SIZE)
    for name in ("/Side/Body", "/Side/Head", "/Side/Beak/shut", "/Side/Beak/open", "/Side/Wing L"):
        picture = bird()["Body" if name.endswith("Body") else "Head"].crop((50, 40, 350, 290))
        project.add_layer(picture, name, offsets=(50, 40))
    project["/Side/Beak/open"].visible = False
    project["/Side/Wing L"].opacity = 0.5
    project["/Side/Wing L"].composite_op = "svg:multiply"
    project.save(str(path))
    return path


def test_layers_groups_and_views_of_a_layered_file(tmp_path: Path) -> None:
    found = read_drawings(layered(tmp_path / "bird.ora"))
    assert (found.width, found.height) == SIZE
    assert names(found) == [
        ("Side", "Wing L", ["Wing L"]),
        ("Side", "Beak", ["open", "shut"]),
        ("Side", "Head", ["Head"]),
        ("Side", "Body", ["Body"]),
    ]
    wing, beak = found.parts[0], found.parts[1]
    assert (wing.seen.left, wing.seen.top, wing.seen.opacity) == (50, 40, 0.5)
    assert beak.seen.name == "shut"  # the other layer is hidden
    assert found.notes == ("Wing L is drawn plainly, not as multiply.",)


def test_what_is_written_is_read_by_others_and_by_us(tmp_path: Path) -> None:
    pictures = bird()
    cuts = [(n, p.crop(box), box) for n, p in pictures.items() for box in [p.getbbox()] if box]
    first = {name.partition("/")[0]: name for name in reversed(pictures)}
    layers = [
        StackLayer(word, np.asarray(p), box[0], box[1], (part,) if part else (), n in shown)
        for n, p, box in cuts
        for part, _, word in [n.rpartition("/")]
        for shown in [first.values()]
    ]
    merged = flat([picture for name, picture in pictures.items() if name in first.values()])
    path = tmp_path / "out.ora"
    path.write_bytes(open_raster_bytes(SIZE, layers, merged))
    with zipfile.ZipFile(path) as archive:
        first = archive.infolist()[0]
        assert (first.filename, first.compress_type) == ("mimetype", zipfile.ZIP_STORED)
        assert archive.read("mimetype") == b"image/openraster"
        assert {"mergedimage.png", "Thumbnails/thumbnail.png"} <= set(archive.namelist())
    theirs = Project.load(str(path))
    assert theirs.dimensions == SIZE
    named = {layer.name for layer in theirs.children_recursive}
    assert named == {word for name in pictures for word in name.split("/")}
    composed = np.asarray(theirs.get_image_data()).astype(int)
    seen = merged[..., 3] > 0
    assert np.abs(composed - merged.astype(int))[seen].max() <= 2
    ours = read_drawings(path)
    assert names(ours) == [
        ("", part, [n.rpartition("/")[2] for n in pictures if n.partition("/")[0] == part])
        for part in dict.fromkeys(name.partition("/")[0] for name in pictures)
    ]
    again = [Image.new("RGBA", SIZE) for _ in ours.parts]
    for canvas, part in zip(again, ours.parts, strict=True):
        canvas.paste(
            Image.fromarray(part.seen.pixels()), (round(part.seen.left), round(part.seen.top))
        )
    assert np.array_equal(flat(again)[seen], merged[seen])


def ora(stack: str, **members: bytes) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", stack)
        for name, data in members.items():
            archive.writestr(f"data/{name}.png", data)
    return buffer.getvalue()


@pytest.mark.parametrize(
    ("stack", "word"),
    [
        ("<image w='10' h='10'", "no XML"),
        ("<!DOCTYPE x [<!ENTITY a 'b'>]><image w='9' h='9'><stack/></image>", "entities"),
        ("<image w='0' h='10'><stack/></image>", "no size"),
        ("<image w='nan' h='10'><stack/></image>", "no size"),
        ("<image w='9' h='9'>" + "<stack>" * 60 + "</stack>" * 60 + "</image>", "without end"),
        ("<image w='9' h='9'><stack/></image>", "no drawings"),
    ],
)
def test_damaged_layer_stacks_are_refused(stack: str, word: str, tmp_path: Path) -> None:
    path = tmp_path / "bad.ora"
    path.write_bytes(ora(stack))
    with pytest.raises(FoxHandError, match=word):
        read_drawings(path)


def test_a_layer_without_its_picture_is_left_out_and_odd_numbers_are_passed_over(
    tmp_path: Path,
) -> None:
    stack = (
        "<image w='400' h='300'><stack x='5' y='many'>"
        "<layer src='data/none.png' name='Gone'/>"
        "<layer src='data/a.png' name='A' x='1e99' y='7' opacity='9'/>"
        "</stack></image>"
    )
    path = tmp_path / "odd.ora"
    path.write_bytes(ora(stack, a=png_bytes(blob(9, 9, 9, 9, "red"))))
    found = read_drawings(path)
    assert found.notes == ("Gone is left out: its picture is not in the file.",)
    one = found.parts[0].seen
    assert (one.left, one.top, one.opacity) == (0.0, 7.0, 1.0)
