"""A puppet that leaves as layers, as pictures with its backdrops, and as an animation."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import numpy as np
import pygltflib
import pytest
from PIL import Image
from pyora import Project

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Cancelled, Progress
from fox_hand.core.view.render_request import Pixels, Quality, Standing, View
from fox_hand.core.view.true_size import at_true_size, true_size
from fox_hand.core.view.usual_views import seen_from
from fox_hand.render.renderer import Renderer
from fox_hand.session.app.headless import OpenShot, open_shot_file
from fox_hand.session.exporting.layers_export import write_layers
from fox_hand.session.exporting.motion_export import shot_motion, write_motion
from fox_hand.session.exporting.picture_export import PictureSequence, views
from tests.small_demo import WHOLE


@pytest.fixture(scope="module")
def shot() -> OpenShot:
    return open_shot_file(WHOLE / "shots" / "nf_040.foxshot")


def drawing(renderer: Renderer):
    def draw(view: View) -> Pixels:
        return renderer.picture(view).pixels

    return draw


def test_every_part_that_is_seen_is_a_layer_as_large_as_it_was_drawn(
    renderer: Renderer, shot: OpenShot, tmp_path: Path
) -> None:
    (standing,) = shot.standing(48.0)
    path = tmp_path / "gull.ora"
    assert write_layers(path, standing, drawing(renderer), Progress()) == 14
    theirs = Project.load(str(path))
    names = [layer.name for layer in theirs.children]
    assert set(names) >= {"Near wing", "Beak", "Eye", "Head", "Body", "Far wing"}
    assert names.index("Far wing") in (0, len(names) - 1)
    # what it is put together to is what we draw of all of it
    composed = np.asarray(theirs.get_image_data().convert("RGBa")).astype(int)
    with zipfile.ZipFile(path) as archive:
        merged = Image.open(io.BytesIO(archive.read("mergedimage.png"))).convert("RGBa")
    apart = np.abs(composed - np.asarray(merged).astype(int)).max(-1)
    assert (apart > 8).mean() < 0.002 and apart.max() < 24
    # a drawing of 1000 pixels to 0.6 m stays that: an eye's ring of 108 pixels is 108 pixels
    eye = next(layer for layer in theirs.children if layer.name == "Eye")
    solid = np.asarray(eye.get_image_data(raw=True))[..., 3] > 128
    assert np.ptp(np.nonzero(solid.any(0))[0]) + 1 == pytest.approx(108, abs=2)


def test_layers_can_be_stopped_and_are_of_puppets_only(
    renderer: Renderer, shot: OpenShot, tmp_path: Path
) -> None:
    (standing,) = shot.standing(1.0)
    progress, path = Progress(), tmp_path / "gull.ora"
    progress.cancel()
    with pytest.raises(Cancelled):
        write_layers(path, standing, drawing(renderer), progress)
    assert not path.exists()
    marrow = open_shot_file(WHOLE / "shots" / "nf_010.foxshot").standing(1.0)[0]
    with pytest.raises(FoxHandError, match="no layers"):
        write_layers(path, marrow, drawing(renderer), Progress())


def test_pictures_of_a_shot_have_its_backdrops_unless_they_are_clear(
    renderer: Renderer, shot: OpenShot
) -> None:
    assert len(shot.backdrops) == 2

    def corner(clear: bool) -> list[int]:
        sequence = PictureSequence(
            shot.standing, [1], width=200, height=160, clear=clear, backdrops=shot.backdrops
        )
        return renderer.picture(views(sequence)[0]()).pixels[3, 150].tolist()

    assert corner(clear=True) == [0, 0, 0, 0]
    sky = corner(clear=False)
    assert sky[3] == 255 and np.abs(np.array(sky[:3]) - (214, 224, 220)).max() < 16


def test_in_an_animation_drawings_are_seen_or_not_and_nothing_between(
    shot: OpenShot, tmp_path: Path
) -> None:
    actor, path = shot.actor(), tmp_path / "gull.glb"
    write_motion(path, actor.rig, shot_motion(actor.take, "nf_040", (1.0, 72.0), 24.0))
    file = pygltflib.GLTF2().load(str(path))
    animation, blob = file.animations[0], file.binary_blob()

    def numbers(index: int, wide: int) -> np.ndarray:
        accessor = file.accessors[index]
        view = file.bufferViews[accessor.bufferView]
        start = (view.byteOffset or 0) + (accessor.byteOffset or 0)
        return np.frombuffer(blob, "<f4", accessor.count * wide, start).reshape(-1, wide)

    sizes = {}
    for channel in animation.channels:
        name = file.nodes[channel.target.node].name
        if channel.target.path == "scale" and ("__" in name or name.endswith("body")):
            sampler = animation.samplers[channel.sampler]
            times = numbers(sampler.input, 1)[:, 0]
            assert sampler.interpolation == "STEP" or len(times) == 1, name
            sizes[name] = times, numbers(sampler.output, 3)[:, 0]

    def seen(name: str, second: float) -> bool:
        if name not in sizes:
            node = next(n for n in file.nodes if n.name == name)
            return node.scale is None or abs(node.scale[0]) > 0.5
        times, values = sizes[name]
        at = max(int(np.searchsorted(times, second + 1e-6)) - 1, 0)
        return abs(float(values[at])) > 0.5

    rig = actor.rig
    for frame in (1.0, 27.9, 28.0, 37.0, 48.0, 53.0, 65.4):
        state = actor.take.at(float(int(frame)))
        for part in ("beak", "eye", "near_wing", "half_eyes"):
            swap = rig.swaps[rig.control_row[part]]
            shown = [n for n in range(len(swap.names)) if seen(f"{part}__{n}", (frame - 1) / 24)]
            assert shown == [round(float(state.settings[swap.setting]))], (part, frame)
        view = rig.views.names[rig.views.seen(state)]
        assert seen("body", (frame - 1) / 24) == (view == "Side")
        assert seen("half_body", (frame - 1) / 24) == (view == "Half")


def test_a_rig_seen_pixel_by_pixel_shows_its_drawings_as_they_are(
    renderer: Renderer, shot: OpenShot
) -> None:
    rig = shot.actor().rig
    at = rig.evaluate(rig.rest)
    drawn = true_size(rig, at)
    assert drawn is not None and drawn.fine == pytest.approx(1000 / 0.6, rel=1e-4)
    camera = seen_from(rig, 0.0, 0.0).framing(rig.flesh(at), 1.0, 1.3)
    for size in ((501, 433), (640, 480)):  # odd and even
        near = at_true_size(camera, size, drawn)
        assert abs(near.target[0] - camera.target[0]) < 1 / drawn.fine
        view = View((Standing(rig, at),), near, *size, Quality.FULL, background=False)
        found = renderer.picture(view).pixels.astype(int)
        with zipfile.ZipFile(WHOLE / "drawings" / "gull.ora") as archive:
            merged = Image.open(io.BytesIO(archive.read("mergedimage.png"))).convert("RGBA")
        whole = np.asarray(merged).astype(float)
        whole[..., :3] *= whole[..., 3:] / 255
        left, top = _corner(near, size)
        best = min(
            float(np.abs(found - whole[y : y + size[1], x : x + size[0]]).mean())
            for y in range(top - 4, top + 5)
            for x in range(left - 1, left + 2)
        )
        assert best < 0.05


def _corner(camera, size: tuple[int, int]) -> tuple[int, int]:
    """About which pixel of the gull's canvas is the upper left one of a picture."""
    fine = 1000 / 0.6
    x = 560 + camera.target[0] * fine - size[0] / 2  # its body turns at 560
    y = 946 - camera.target[1] * fine - size[1] / 2  # its feet stand at the lowest drawing
    return round(x), round(y)
