"""Drawings are drawn as their author saw them: compared with Pillow's own compositing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from scipy.ndimage import maximum_filter, minimum_filter

from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.maths.euler import from_euler
from fox_hand.core.model.state import State
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Contour, Quality, Standing, View
from fox_hand.interchange.puppets.puppet_file import cut
from fox_hand.interchange.readers import read_rig
from fox_hand.render.renderer import Renderer
from fox_hand.session.puppets.making import puppet_of, write_puppet
from tests.puppets import SIZE, as_folder, bird, blob, flat

NARROW = float(np.radians(0.05))  # next to no perspective


class Puppet:
    """A puppet, and the camera that sees its canvas pixel by pixel."""

    def __init__(self, folder: Path, drawings: dict[str, Image.Image]) -> None:
        source = as_folder(folder / "p", drawings)
        made = puppet_of(source)
        write_puppet(made, folder / "p.glb", source)
        self.rig: Rig = read_rig(folder / "p.glb")
        body = made.root("")
        _, left, top = cut(body.seen)
        name = f"{body.name.lower().replace(' ', '_')}__{body.shown}"
        part = next(p for p in self.rig.parts if p.name == name)
        at = self.rig.evaluate(self.rig.rest)
        corners = np.asarray(skinned(part, at.palette, at.settings))
        one = 1 / SIZE[1]
        x = corners[:, 0].min() + (SIZE[0] / 2 - left) * one
        y = corners[:, 1].max() - (SIZE[1] / 2 - top) * one
        away = 0.5 / np.tan(NARROW / 2)
        self.camera = Camera((float(x), float(y), 0.0), 0.0, 0.0, float(away), NARROW)

    def picture(
        self,
        renderer: Renderer,
        quality: Quality = Quality.FULL,
        others: Sequence[Standing] = (),
        **settings: float,
    ) -> np.ndarray:
        values = self.rig.rest.settings.copy()
        for key, value in settings.items():
            values[self.rig.setting_row[key]] = value
        who = Standing(self.rig, self.rig.evaluate(self.rig.rest.with_(settings=values)))
        view = View((*others, who), self.camera, *SIZE, quality, background=False)
        return renderer.picture(view).pixels.astype(int)


def premultiplied(pixels: np.ndarray) -> np.ndarray:
    alpha = pixels[..., 3:].astype(float) / 255
    return np.concatenate([pixels[..., :3] * alpha, pixels[..., 3:]], axis=-1)


def seen(drawings: dict[str, Image.Image], **chosen: str) -> np.ndarray:
    """What an author sees: of every part one drawing."""
    shown: dict[str, Image.Image] = {}
    for name, picture in drawings.items():
        part, _, word = name.partition("/")
        if part not in shown or chosen.get(part) == word:
            shown[part] = picture
    return premultiplied(flat(list(shown.values())))


@pytest.mark.parametrize("quality", [Quality.FULL, Quality.DRAFT])
def test_a_puppet_looks_as_its_drawings_laid_over_each_other(
    renderer: Renderer, tmp_path: Path, quality: Quality
) -> None:
    drawings = bird()
    wing = drawings["Near wing"]
    wing.putalpha(wing.getchannel("A").point(lambda a: a * 2 // 3))  # one shines through
    puppet = Puppet(tmp_path, drawings)
    beaks = puppet.rig.settings[puppet.rig.setting_row["beak_drawing"]].options
    for number, word in enumerate(beaks):
        eyes = puppet.rig.settings[puppet.rig.setting_row["eye_drawing"]].options
        found = puppet.picture(renderer, quality, beak_drawing=number)
        apart = np.abs(found - seen(drawings, Beak=word, Eye=eyes[0]))
        assert apart.max() <= 2, (word, apart.max())


def heap() -> dict[str, Image.Image]:
    """Thirty drawings that cover each other: some whole, some shine through, some have holes."""
    drawings: dict[str, Image.Image] = {}
    for number in range(30):
        picture = blob(
            200, 150, 392 - 5 * number % 70, 292 - 7 * number % 90, f"#{number * 8:02x}9060"
        )
        alpha = np.array(picture.getchannel("A"))
        if number % 3 == 1:
            alpha = (alpha * 0.6).astype(np.uint8)
        alpha[40 + 4 * number : 90 + 4 * number, 30 + 9 * number : 80 + 9 * number] = 0
        picture.putalpha(Image.fromarray(alpha))
        drawings[f"Part {number:02}"] = picture
    return drawings


@pytest.mark.parametrize("quality", [Quality.FULL, Quality.DRAFT])
def test_many_over_each_other_look_as_laid_one_by_one(
    renderer: Renderer, tmp_path: Path, quality: Quality
) -> None:
    drawings = heap()
    puppet = Puppet(tmp_path, drawings)
    apart = np.abs(puppet.picture(renderer, quality) - seen(drawings))
    assert apart.max() <= 3  # each of the thirty rounds
    faded = puppet.picture(renderer, quality, part_00_opacity=0.5)
    first = drawings["Part 00"]
    first.putalpha(first.getchannel("A").point(lambda a: a // 2))
    assert np.abs(faded - seen(drawings)).max() <= 3


def test_what_is_brought_to_the_front_covers_the_others(renderer: Renderer, tmp_path: Path) -> None:
    drawings = {
        "Near wing": blob(200, 170, 110, 50, "#0000ff"),
        "Body": blob(200, 190, 190, 100, "#ffffff"),
        "Far wing": blob(200, 210, 110, 50, "#ff0000"),
    }
    puppet = Puppet(tmp_path, drawings)
    assert puppet.picture(renderer)[170, 200].tolist() == [0, 0, 255, 255]
    assert puppet.picture(renderer)[225, 200].tolist() == [255, 255, 255, 255]
    front = puppet.picture(renderer, far_wing_in_front=5)
    assert front[225, 200].tolist() == [255, 0, 0, 255]
    assert front[190, 200].tolist() == [255, 0, 0, 255]  # over the near wing as well
    back = puppet.picture(renderer, near_wing_in_front=-5)
    assert back[160, 200].tolist() == [255, 255, 255, 255]


def test_from_behind_the_order_is_the_other_way_round(renderer: Renderer, tmp_path: Path) -> None:
    drawings = {"Eye": blob(200, 190, 50, 50, "#0000ff"), "Body": blob(200, 190, 190, 100, "#fff")}
    puppet = Puppet(tmp_path, drawings)
    puppet.camera = Camera(puppet.camera.target, np.pi, 0.0, puppet.camera.distance, NARROW)
    assert puppet.picture(renderer)[190, 200].tolist() == [255, 255, 255, 255]


def test_outlines_follow_what_is_drawn_not_the_quad(renderer: Renderer, tmp_path: Path) -> None:
    puppet = Puppet(tmp_path, {"Body": blob(200, 150, 200, 200, "#ffffff")})
    who = Standing(puppet.rig, puppet.rig.evaluate(puppet.rig.rest))
    view = View((who,), puppet.camera, *SIZE, contours=(Contour("all", who),))
    (line,) = renderer.picture(view).contours["all"]
    away = np.linalg.norm(line - (200, 150), axis=1)
    assert away == pytest.approx(100, abs=4)  # round, where the quad's corners are 141 away


def test_a_solid_thing_in_front_hides_a_drawing_and_one_behind_does_not(
    renderer: Renderer, tmp_path: Path, marrow: Rig
) -> None:
    puppet = Puppet(tmp_path, {"Body": blob(200, 150, 380, 280, "#00ff00")})
    root = marrow.control_row["root"]
    green = []
    for ahead in (2.0, -2.0):
        move = marrow.rest.move.copy()
        move[root] = (0.0, -0.5, ahead)
        at = marrow.evaluate(marrow.rest.with_(move=move))
        found = puppet.picture(renderer, others=(Standing(marrow, at),))
        green.append(int((found[..., :3] == (0, 255, 0)).all(-1).sum()))
    before, behind = green
    assert before < 0.9 * behind
    assert behind > 0.97 * np.pi / 4 * 380 * 280


def posed(rig: Rig) -> State:
    """A state in which much of a bird differs."""
    state = rig.rest
    move, euler = state.move.copy(), state.euler.copy()
    for name, angle in (("root", 0.1), ("body", 0.3), ("near_wing", -0.8), ("head", 0.5)):
        euler[rig.control_row[name], 2] = angle
    move[rig.control_row["root"]] = (0.05, 0.02, 0.0)
    settings = state.settings.copy()
    settings[rig.setting_row["beak_drawing"]] = 2.0
    turn = np.array([from_euler(e, "XYZ") for e in euler])
    return state.with_(move=move, turn=turn, euler=euler, settings=settings)


def test_a_figure_that_looks_aside_mirrored_is_its_flipped_picture(
    renderer: Renderer, tmp_path: Path
) -> None:
    puppet = Puppet(tmp_path, bird())
    rig, state = puppet.rig, posed(puppet.rig)
    camera = replace(puppet.camera, target=(0.0, *puppet.camera.target[1:]))

    def picture(one: State) -> np.ndarray:
        who = Standing(rig, rig.evaluate(one))
        view = View((who,), camera, *SIZE, Quality.FULL, background=False)
        return premultiplied(renderer.picture(view).pixels)

    other = mirror(rig, state)
    assert other.settings[rig.setting_row["facing"]] == 1.0
    wanted, found = picture(state)[:, ::-1], picture(other)
    assert not np.array_equal(wanted, wanted[:, ::-1])
    assert (found >= minimum_filter(wanted, (3, 3, 1)) - 2).all()  # within a pixel
    assert (found <= maximum_filter(wanted, (3, 3, 1)) + 2).all()
    again = mirror(rig, other)
    for field in ("move", "turn", "euler", "settings"):
        assert np.array_equal(getattr(again, field), getattr(state, field)), field
