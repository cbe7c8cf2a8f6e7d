"""Drawings are unpacked when they are seen, previews first, and never beyond a budget."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from fox_hand.core.model.mesh import PackedPicture
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.render_request import Picture, Quality, Standing, View
from fox_hand.core.view.usual_views import seen_from
from fox_hand.interchange.gltf.parts import looked_at
from fox_hand.interchange.readers import read_rig
from fox_hand.render import drawing_textures
from fox_hand.render.context import open_context
from fox_hand.render.drawing_textures import DrawingTextures
from fox_hand.render.engine import Engine
from fox_hand.session.puppets.making import puppet_of, write_puppet
from tests.puppets import as_folder, png_bytes

SIDE = 640


def checked(seed: int) -> Image.Image:
    """A board of one pixel, so that a preview of it is grey."""
    board = (np.indices((SIDE, SIDE)).sum(0) + seed) % 2 * 255
    alpha = np.full((SIDE, SIDE), 255)
    alpha[:8], alpha[:, :8] = 0, 0
    return Image.fromarray(np.stack([board, board, board, alpha], -1).astype(np.uint8), "RGBA")


@pytest.fixture(scope="module")
def rig(tmp_path_factory: pytest.TempPathFactory) -> Rig:
    folder = tmp_path_factory.mktemp("many")
    drawings = {f"Part {n}": checked(n) for n in range(20)}
    drawings["Body"] = checked(0)
    source = as_folder(folder / "many", drawings)
    write_puppet(puppet_of(source), folder / "many.glb", source)
    return read_rig(folder / "many.glb")


def draw(engine: Engine, rig: Rig, quality: Quality) -> Picture:
    at = rig.evaluate(rig.rest)
    camera = seen_from(rig, 0.0, 0.0).framing(rig.flesh(at), 1.0, 1.0)
    return engine.draw(View((Standing(rig, at),), camera, SIDE, SIDE, quality, False))


def contrast(picture: Picture) -> float:
    """How far neighbouring pixels of its middle differ."""
    middle = picture.pixels[200:440, 200:440, 0].astype(float)
    return float(np.abs(np.diff(middle, axis=0)).mean())


def test_while_something_moves_previews_do_and_at_rest_it_gets_finer_step_by_step(rig: Rig) -> None:
    assert all(part.material.texture is None for part in rig.parts)
    assert all(part.material.drawing.preview for part in rig.parts)
    engine = Engine()
    draft = draw(engine, rig, Quality.DRAFT)
    assert draft.unfinished and contrast(draft) < 10
    rounds = [draw(engine, rig, Quality.FULL).unfinished for _ in range(3)]
    assert rounds == [True, False, False]  # 21 drawings, 16 in one go
    now = draw(engine, rig, Quality.DRAFT)
    assert not now.unfinished and contrast(now) > 35
    card = draw(Engine(), rig, Quality.CARD)
    assert not card.unfinished


def test_without_previews_everything_is_there_at_once(rig: Rig) -> None:
    parts = tuple(
        replace(p, material=replace(p.material, drawing=replace(p.material.drawing, preview=b"")))
        for p in rig.parts
    )
    picture = draw(Engine(), replace(rig, parts=parts), Quality.DRAFT)
    assert not picture.unfinished and contrast(picture) > 35


def test_what_would_take_too_much_is_halved_and_what_is_unseen_is_given_back(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    context = open_context()
    textures = DrawingTextures(context)
    drawings = [looked_at(png_bytes(checked(n))) for n in range(4)]
    one = SIDE * SIDE
    monkeypatch.setattr(drawing_textures, "BUDGET", 2 * one)
    monkeypatch.setattr(drawing_textures, "KEPT", 2 * one)
    assert textures.prepare(drawings[:2], None)
    assert textures.texture(drawings[0]).size == (SIDE, SIDE)
    assert textures.prepare(drawings, None)  # four do not fit as they are
    assert {textures.texture(d).size for d in drawings} == {(SIDE // 2, SIDE // 2)}
    for drawing in drawings:
        textures.prepare([drawing], None)
    assert sum(t.width * t.height for t in textures._loaded.values()) <= 2 * one
    textures.release()
    assert not textures._loaded
    context.release()


def test_a_drawing_that_cannot_be_decoded_is_nothing_and_stops_nobody(tmp_path: Path) -> None:
    data = png_bytes(checked(0))
    with pytest.raises((OSError, SyntaxError)):
        looked_at(data[: len(data) // 2])
    assert drawing_textures.unpack(data[:100], 1).shape == (1, 1, 4)
    assert PackedPicture(data, SIDE, SIDE).preview == b""
