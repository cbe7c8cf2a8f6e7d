"""Every card of the demo's puppet against its drawings put together by Pillow: which drawing of a
part is seen, what lies before what, and where everything turns."""

from __future__ import annotations

import json
import math
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from fox_hand.base.work import Progress
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import bind
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Quality, Standing, View
from fox_hand.interchange.drawings.open_raster import read_open_raster
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card
from fox_hand.render.renderer import Renderer
from fox_hand.session.figures.pose_conversion import state_of
from tests.small_demo import WHOLE

CANVAS, HEIGHT = 1000, 0.6  # pixels, metres: as its draft says
NARROW = float(np.radians(0.05))
CARDS = sorted((WHOLE / "library" / "Gull").rglob("*.foxcard"))
Affine = np.ndarray


class Reference:
    """Parts as their author left them, put together without any of our matrices."""

    def __init__(self) -> None:
        figure = read_open_raster(WHOLE / "drawings" / "gull.ora", Progress())
        draft = json.loads((WHOLE / "drawings" / "gull.foxpuppet.json").read_text())
        self.notes = {(n["view"], n["name"]): n for n in draft["parts"]}
        self.parts = {(p.view, p.name): p for p in figure.parts}

    def picture(self, view: str, card: dict[str, dict]) -> np.ndarray:
        """All parts of a view, the farthest first, ``(H, W, 4)`` straight alpha."""
        canvas = Image.new("RGBA", (CANVAS, CANVAS))
        for part in reversed([p for p in self.parts.values() if p.view == view]):
            held = card.get(control(view, part.name), {})
            word = next(iter(held.get("options", {}).values()), part.seen.name)
            drawing = next(d for d in part.drawings if d.name == word)
            whole = Image.new("RGBA", (CANVAS, CANVAS))
            pixels = Image.fromarray(drawing.pixels(), "RGBA")
            whole.paste(pixels, (round(drawing.left), round(drawing.top)))
            way = np.linalg.inv(self.way(view, part.name, card))
            if np.allclose(way, np.eye(3)):
                canvas.alpha_composite(whole)
                continue
            moved = premultiplied(whole).transform(
                (CANVAS, CANVAS),
                Image.Transform.AFFINE,
                tuple(way[:2].ravel()),
                Image.Resampling.BILINEAR,
            )
            canvas.alpha_composite(straight(moved))
        return np.asarray(canvas)

    def way(self, view: str, name: str, card: dict[str, dict]) -> Affine:
        """From where a part is drawn to where it is, canvas pixels, ``(3, 3)``."""
        note, held = self.notes[view, name], card.get(control(view, name), {})
        angle = math.radians(held.get("euler", [0, 0, 0])[2])
        x, y = note["pivot"]
        move = [v * CANVAS / HEIGHT for v in held.get("move", [0, 0, 0])[:2]]
        turn = np.array(
            [
                [math.cos(angle), math.sin(angle), 0],  # y downwards: counterclockwise
                [-math.sin(angle), math.cos(angle), 0],
                [0, 0, 1],
            ]
        )
        own = shift(x + move[0], y - move[1]) @ turn @ shift(-x, -y)
        above = note.get("hangs_on", "")
        return self.way(view, above, card) @ own if above else own


def control(view: str, part: str) -> str:
    word = part.lower().replace(" ", "_")
    return word if view == "Side" else f"{view.lower()}_{word}"


def shift(x: float, y: float) -> Affine:
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1]], dtype=float)


def premultiplied(picture: Image.Image) -> Image.Image:
    return picture.convert("RGBa")


def straight(picture: Image.Image) -> Image.Image:
    return picture.convert("RGBA")


@pytest.fixture(scope="module")
def reference() -> Reference:
    return Reference()


@pytest.fixture(scope="module")
def gull() -> Rig:
    return read_rig(WHOLE / "cast" / "gull.glb")


def seen(renderer: Renderer, rig: Rig, path: Path, reference: Reference) -> np.ndarray:
    """The figure with a card on, its canvas pixel by pixel, premultiplied."""
    card, _ = read_card(path)
    state = blend(state_of(rig, card.around), bind(card.pose, rig), 1.0, rig.setting_rules)
    view = rig.views.names[rig.views.seen(state)]
    parts = [p for p in reference.parts.values() if p.view == view]
    bottoms = [p.seen.top + np.nonzero(p.seen.pixels()[..., 3].any(1))[0].max() + 1 for p in parts]
    body = reference.notes[view, "Body"]["pivot"][0]
    one = HEIGHT / CANVAS  # the ground is under the body's pivot, where the lowest drawing ends
    target = ((CANVAS / 2 - body) * one, (max(bottoms) - CANVAS / 2) * one, 0.0)
    camera = Camera(target, 0.0, 0.0, HEIGHT / 2 / np.tan(NARROW / 2), NARROW)
    who = Standing(rig, rig.evaluate(state))
    found = View((who,), camera, CANVAS, CANVAS, Quality.FULL, background=False)
    return renderer.picture(found).pixels.astype(float)


@pytest.mark.parametrize("path", CARDS, ids=[path.stem for path in CARDS])
def test_a_card_shows_what_its_drawings_show(
    renderer: Renderer, gull: Rig, reference: Reference, path: Path
) -> None:
    document, _ = read_card(path)
    card = {
        name: {
            "options": dict(held.options),
            **({"euler": [math.degrees(a) for a in held.euler]} if held.euler else {}),
            **({"move": list(held.move)} if held.move else {}),
        }
        for source in (document.around.controls, document.pose.controls)
        for name, held in source.items()
    }
    view = card.get("root", {}).get("options", {}).get("view", "Side")
    for held in card.values():
        for name in ("view", "facing"):
            held["options"].pop(name, None)
    wanted = reference.picture(view, card).astype(float)
    wanted[..., :3] *= wanted[..., 3:] / 255
    found = seen(renderer, gull, path, reference)
    differs = np.abs(found - wanted).max(-1)
    assert (differs > 48).mean() < 0.004, "only edges, which are smoothed in another way"
    assert differs[wanted[..., 3] > 0].mean() < 3.0
    turned = any(any(abs(a) > 0 for a in h.get("euler", ())) for h in card.values())
    if not turned and not any("move" in h for h in card.values()):
        # 2 of 255, but where soft edges of several parts lie on each other and each is rounded
        assert (differs > 2.5).mean() < 2e-4 and differs.max() < 5
