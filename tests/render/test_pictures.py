"""Pictures: shapes are compared with a tolerance, never pixels one by one."""

from __future__ import annotations

import dataclasses
import os
import subprocess
import sys
import threading
from pathlib import Path

import moderngl
import numpy as np
import pytest
from PIL import Image, ImageDraw

from fox_hand.base.errors import FoxHandError
from fox_hand.core.kinematics.skinning import skinned
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Contour, Picture, Quality, Standing, View
from fox_hand.interchange.readers import read_rig
from fox_hand.render import renderer as renderer_module
from fox_hand.render.context import open_context
from fox_hand.render.light import room_of
from fox_hand.render.programs import ShaderProgram
from fox_hand.render.renderer import LAUNCH, Renderer
from fox_hand.render.wire import Sender, drawing_key
from tests.conftest import MARROW
from tests.core.pose.test_blend import random_state
from tests.core.retarget.test_anywhere import elsewhere
from tests.core.retarget.test_anywhere import moved as way_to
from tests.glb import two_skins


def standing(rig: Rig, state: State) -> Standing:
    return Standing(rig, rig.evaluate(state))


def silhouette(who: Standing, camera: Camera, width: int, height: int) -> np.ndarray:
    """The shape on the CPU: skinned vertices projected and filled by Pillow, four times as
    large, because Pillow also fills the pixels an edge only touches."""
    image = Image.new("L", (width * 4, height * 4))
    draw = ImageDraw.Draw(image)
    for part in who.rig.parts:
        points = skinned(part, who.at.palette, who.at.settings)
        flat = camera.project(points, width * 4, height * 4)[:, :2]
        for triangle in part.triangles:
            draw.polygon([tuple(p) for p in flat[triangle]], fill=255)
    return np.asarray(image).reshape(height, 4, width, 4).mean((1, 3)) > 127


def overlap(a: np.ndarray, b: np.ndarray) -> float:
    return float((a & b).sum() / (a | b).sum())


@pytest.mark.parametrize("seed", [None, 4])
def test_the_gpu_draws_the_shape_the_cpu_computes(
    renderer: Renderer, marrow: Rig, seed: int | None
) -> None:
    """Skinning and morphs on the graphics side against the checked ones on the CPU."""
    state = marrow.rest if seed is None else random_state(marrow, seed)
    who = standing(marrow, state.with_(scale=marrow.rest.scale.copy()))
    camera = Camera(yaw=0.5, pitch=0.1).framing(marrow.flesh(who.at), 1.0)
    for quality in Quality:
        view = View((who,), camera, 256, 256, quality, background=False)
        picture = renderer.picture(view)
        assert picture.pixels.shape == (256, 256, 4)
        drawn = picture.pixels[..., 3] > 127
        assert overlap(drawn, silhouette(who, camera, 256, 256)) > 0.97, quality


def test_a_figure_is_lit_from_its_own_front_wherever_it_looks(
    renderer: Renderer, marrow: Rig
) -> None:
    """Turned about with the camera, the picture stays the same, light, shadow and all."""
    camera = Camera(yaw=0.3).framing(marrow.flesh(marrow.evaluate(marrow.rest)), 1.0)
    for quality in (Quality.DRAFT, Quality.FULL):
        one = renderer.picture(View((standing(marrow, marrow.rest),), camera, 160, 160, quality))
        for yaw in (np.pi, np.pi / 2):
            other = elsewhere(marrow, way_to(yaw, (0.0, 0.0, 0.0)))
            who = standing(other, other.rest)
            middle = way_to(yaw, (0.0, 0.0, 0.0))[:3, :3] @ np.array(camera.target)
            around = dataclasses.replace(
                camera, yaw=camera.yaw + yaw, target=tuple(float(v) for v in middle)
            )
            two = renderer.picture(View((who,), around, 160, 160, quality))
            apart = np.abs(one.pixels.astype(float) - two.pixels.astype(float))[..., :3]
            assert apart.mean() < 1.0, quality
    # of two who look apart neither leads
    back = elsewhere(marrow, way_to(np.pi, (0.0, 0.0, 0.0)))
    pair = (standing(marrow, marrow.rest), standing(back, back.rest))
    assert room_of(pair).heading == 0.0 and room_of(pair[1:]).heading == pytest.approx(np.pi)


def test_a_skeleton_without_anything_to_see_leaves_the_others_in_sight(
    renderer: Renderer, marrow: Rig
) -> None:
    """As a file holds that has joints and their motion only."""
    bare = dataclasses.replace(
        marrow, parts=(), palette_nodes=np.zeros(0, np.intp), inverse_binds=np.zeros((0, 4, 4))
    )
    who, bones = standing(marrow, marrow.rest), standing(bare, bare.rest)
    camera = Camera().framing(marrow.flesh(who.at), 1.0)
    for quality in (Quality.DRAFT, Quality.FULL):
        alone = renderer.picture(View((who,), camera, 96, 96, quality))
        outlines = (Contour("bones", bones), Contour("who", who))
        both = renderer.picture(View((bones, who), camera, 96, 96, quality, contours=outlines))
        apart = np.abs(alone.pixels.astype(float) - both.pixels.astype(float))
        assert apart.mean() < 1.0, quality
        assert both.contours["who"] and not both.contours["bones"]


def test_dark_spots_lie_under_feet_and_not_under_a_root_that_stayed_behind(marrow: Rig) -> None:
    move = marrow.rest.move.copy()
    move[marrow.control_row["hips"]] = (0.0, 0.0, 2.0)
    room = room_of((standing(marrow, marrow.rest.with_(move=move)),))
    dark = room.feet[room.feet[:, 3] > 0]
    assert len(dark) >= 2 and (dark[:, 1] > 1.5).all()
    bones = [marrow.skeleton.names[n] for n in marrow.fleshed_nodes]
    assert "foot_L" in bones and "root" not in bones
    bare = dataclasses.replace(marrow, parts=())
    assert bare.fleshed_nodes.tolist() == marrow.joint_nodes.tolist()


def test_stage_and_card_pictures_show_the_same(renderer: Renderer, marrow: Rig) -> None:
    """One path: a card's picture is the stage's, smaller and smoother."""
    who = standing(marrow, marrow.rest)
    camera = Camera(yaw=0.3).framing(marrow.flesh(who.at), 1.0)
    stage = renderer.picture(View((who,), camera, 320, 320, Quality.FULL)).pixels
    card = renderer.picture(View((who,), camera, 160, 160, Quality.CARD)).pixels
    half = stage.reshape(160, 2, 160, 2, 4).mean((1, 3))
    difference = np.abs(half[..., :3] - card[..., :3])
    assert difference.mean() < 2.5
    assert card[..., 3].min() == 255


def test_a_quick_picture_has_the_colours_of_the_fine_one(renderer: Renderer, marrow: Rig) -> None:
    who = standing(marrow, random_state(marrow, np.random.default_rng(4)))
    camera = Camera().framing(marrow.rest_bounds, 1.0)
    quick, fine = (
        renderer.picture(View((who,), camera, 400, 400, quality)).pixels[..., :3] / 255
        for quality in (Quality.DRAFT, Quality.FULL)
    )
    inside = silhouette(who, camera, 400, 400) > 0
    apart = np.abs(quick - fine)
    assert inside.sum() > 5000
    assert apart[inside].mean() < 0.03
    assert apart[~inside].mean() < 0.01
    assert np.corrcoef(quick[inside].ravel(), fine[inside].ravel())[0, 1] > 0.97


def test_light_shadow_and_ground(renderer: Renderer, marrow: Rig) -> None:
    who = standing(marrow, marrow.rest)
    camera = Camera(yaw=0.0, pitch=0.25).framing(marrow.flesh(who.at), 1.6, 1.3)
    view = View((who,), camera, 480, 300)
    pixels = renderer.picture(view).pixels.astype(float)[..., :3]
    shape = silhouette(who, camera, 480, 300)
    empty = renderer.picture(View((), camera, 480, 300)).pixels.astype(float)[..., :3]
    shadow = ((empty - pixels).mean(-1) > 12) & ~shape
    assert 800 < shadow.sum() < shape.sum()
    ys, xs = np.nonzero(shadow)
    assert xs.mean() > np.nonzero(shape)[1].mean()  # the key light comes from the left
    assert ys.mean() > 200  # and the shadow lies on the floor
    top = empty[0, 0]
    assert np.allclose(top, [0xCD, 0xC2, 0xB0], atol=24)
    jacket = pixels[shape][:, 2] > pixels[shape][:, 0] + 30
    assert jacket.sum() > 2000  # the jacket is teal


def test_outlines_follow_the_flesh_of_the_asked_joints(renderer: Renderer, marrow: Rig) -> None:
    who = standing(marrow, marrow.rest)
    camera = Camera().framing(marrow.flesh(who.at), 1.0)
    hand = frozenset(
        i
        for i, n in enumerate(marrow.skeleton.names)
        if n == "hand_L" or ("finger" in n and "_L" in n)
    )
    contours = (Contour("hand", who, hand), Contour("all", who))
    picture = renderer.picture(View((who,), camera, 400, 400, Quality.FULL, contours=contours))
    flesh = camera.project(marrow.flesh(who.at, hand), 400, 400)[:, :2]
    line = np.concatenate(picture.contours["hand"])
    assert np.allclose(line.min(0), flesh.min(0), atol=5)
    assert np.allclose(line.max(0), flesh.max(0), atol=5)
    everything = np.concatenate(picture.contours["all"])
    whole = camera.project(marrow.flesh(who.at), 400, 400)[:, :2]
    assert np.allclose([everything.min(0), everything.max(0)], [whole.min(0), whole.max(0)], atol=5)


def test_a_newer_request_replaces_an_older_one_and_the_stage_goes_first(
    renderer: Renderer, marrow: Rig
) -> None:
    who = standing(marrow, marrow.rest)
    came: list[str] = []
    done = threading.Event()

    def ask(channel: str, name: str, size: int) -> None:
        def ready(result: Picture | Exception) -> None:
            assert isinstance(result, Picture)
            came.append(name)
            if name == "last":
                done.set()

        view = View((who,), Camera(), size, size, Quality.CARD)
        renderer.submit(channel, view, ready)

    ask("busy", "busy", 400)  # keeps it busy while the others queue up
    ask("card:1", "old", 16)
    ask("card:1", "new", 16)
    ask("gone:1", "never", 16)
    ask("z", "last", 16)
    ask("stage", "stage", 16)
    renderer.forget("gone:")
    assert done.wait(30)
    assert "old" not in came
    assert "never" not in came
    assert came.index("stage") < came.index("new") < came.index("last")


def small(rig: Rig) -> View:
    return View((standing(rig, rig.rest),), Camera(), 32, 32)


def test_a_drawing_process_that_dies_is_started_again_quietly(marrow: Rig) -> None:
    own = Renderer()
    assert own.picture(small(marrow)).pixels.shape == (32, 32, 4)
    assert own.process_id is not None
    os.kill(own.process_id, 9)
    assert own.picture(small(marrow)).pixels.shape == (32, 32, 4)
    own.stop()


def test_one_that_dies_three_times_in_a_row_stays_away_until_somebody_tries_again(
    marrow: Rig, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(renderer_module, "LAUNCH", "raise SystemExit(3)")
    own = Renderer()
    codes = []
    for _ in range(3):
        with pytest.raises(FoxHandError) as caught:
            own.picture(small(marrow))
        codes.append(caught.value.code)
    assert codes == ["render.ended", "render.gave_up", "render.gave_up"]
    assert own.process_id is None
    monkeypatch.undo()
    with pytest.raises(FoxHandError, match="3 times"):
        own.picture(small(marrow))
    own.try_again()
    assert own.picture(small(marrow)).pixels.shape == (32, 32, 4)
    own.stop()


def test_a_fault_while_drawing_reaches_people_in_words(
    marrow: Rig, caplog: pytest.LogCaptureFixture, monkeypatch: pytest.MonkeyPatch
) -> None:
    broken = "import fox_hand.render.engine as e; e.Engine.__init__ = lambda self: 1 / 0; "
    monkeypatch.setattr(
        renderer_module, "LAUNCH", LAUNCH.replace("from fox_hand", broken + "from fox_hand", 1)
    )
    own = Renderer()
    with pytest.raises(FoxHandError) as caught:
        own.picture(small(marrow))
    assert caught.value.code == "render.no_start"
    assert "division" not in caught.value.sentence()
    assert "ZeroDivisionError" in caplog.text
    own.stop()


@pytest.mark.parametrize(
    "fault",
    [
        "import os; e.Engine.draw = lambda *_: os.kill(os.getpid(), 9)",  # as the system does it
        "e.Engine.draw = lambda *_: bytearray(1 << 60)",  # as Python does
        "e.OPENGL_WORD = 'GL_NO_ERROR'",  # as OpenGL does, but for the word
    ],
)
def test_what_does_not_fit_into_memory_is_said(
    marrow: Rig, monkeypatch: pytest.MonkeyPatch, fault: str
) -> None:
    start = f"import fox_hand.render.engine as e; {fault}; from fox_hand"
    monkeypatch.setattr(renderer_module, "LAUNCH", LAUNCH.replace("from fox_hand", start, 1))
    own = Renderer()
    with pytest.raises(FoxHandError, match="no longer fits into memory") as caught:
        own.picture(small(marrow))
    assert caught.value.code == "render.memory"
    assert "GL" not in caught.value.sentence()
    own.stop()


UNUSED = """#version 330
uniform float texel;
uniform vec3 tone;
out vec4 colour;
void main() { colour = vec4(tone, 1.0); }
"""
CORNER = """#version 330
uniform mat4 to_clip;
in vec2 in_corner;
in vec3 in_normal;
void main() { gl_Position = vec4(in_corner, 0.0, 1.0); }
"""


def test_what_a_driver_drops_from_a_shader_is_passed_over() -> None:
    """Every driver drops what no line uses; a newer one sees that in more places."""
    context = open_context()
    program = ShaderProgram(context, CORNER, UNUSED)
    program.set(texel=0.5, tone=(0.2, 0.4, 0.6))
    program.set_matrix("to_clip", np.eye(4))
    rows = np.array([[-1, -1], [1, -1], [-1, 1], [1, 1]], "f4")
    square = np.hstack([rows, np.ones((4, 3), "f4")])
    buffer = context.buffer(square.tobytes())
    target = context.simple_framebuffer((4, 4))
    target.use()
    array = program.array([(buffer, "2f 3f", "in_corner", "in_normal")])
    array.render(moderngl.TRIANGLE_STRIP)
    assert np.frombuffer(target.read(), np.uint8)[:3] == pytest.approx([51, 102, 153], abs=1)
    with pytest.raises(KeyError, match="txel"):
        program.set(txel=1.0)
    with pytest.raises(KeyError, match="in_nromal"):
        program.array([(buffer, "2f 3f", "in_corner", "in_nromal")])
    context.release()


def test_twenty_figures_stand_in_one_picture_and_copies_travel_once(marrow: Rig) -> None:
    own, others = Renderer(), [read_rig(MARROW) for _ in range(2)]
    rigs = [scaled(marrow, 1.0 + n / 500) for n in range(18)] + others
    placed = [moved(rig, 1.8 * n) for n, rig in enumerate(rigs)]
    camera = Camera(yaw=0.0, pitch=0.0).framing(np.array([[-0.5, 0, 0], [35.0, 1.9, 0]]), 4.0)
    for quality in (Quality.DRAFT, Quality.FULL, Quality.DRAFT):
        view = View(tuple(placed), camera, 1200, 160, quality, background=False)
        solid = own.picture(view).pixels[..., 3].max(0) > 127
        starts = np.flatnonzero(np.diff(solid.astype(int)) == 1)
        assert len(starts) == 20, quality
    assert drawing_key(others[0]) == drawing_key(others[1]) != drawing_key(rigs[1])
    sent: list[str] = []
    sender = Sender(_Recorder(sent))
    sender.send(View(tuple(moved(r, 0) for r in others), camera, 8, 8))
    sender.send(View((moved(others[1], 0),), camera, 8, 8))
    assert sent == ["rig", "draw", "draw"]
    own.stop()


class _Recorder:
    def __init__(self, sent: list[str]) -> None:
        self._sent = sent

    def send(self, message: tuple[str, int, object]) -> None:
        self._sent.append(message[0])


def scaled(rig: Rig, size: float) -> Rig:
    parts = tuple(
        dataclasses.replace(p, positions=(p.positions * size).astype(np.float32)) for p in rig.parts
    )
    return dataclasses.replace(rig, parts=parts)


def moved(rig: Rig, right: float) -> Standing:
    at = rig.evaluate(rig.rest)
    nodes = at.nodes.copy()
    nodes[:, 0, 3] += right
    return Standing(rig, dataclasses.replace(at, nodes=nodes))


def test_a_rig_travels_while_others_compute_with_it(renderer: Renderer) -> None:
    """Caches that another thread fills do not get in the way of sending the rig."""
    stop = threading.Event()
    rigs = [read_rig(MARROW) for _ in range(4)]

    def compute() -> None:
        while not stop.is_set():
            for rig in rigs:
                for name in ("height", "rest_bounds", "parents", "control_row", "moving_rows"):
                    rig.__dict__.pop(name, None)
                    getattr(rig, name)

    worker = threading.Thread(target=compute)
    worker.start()
    try:
        for rig in rigs:
            view = View((standing(rig, rig.rest),), Camera(), 16, 16)
            assert renderer.picture(view).pixels.shape == (16, 16, 4)
    finally:
        stop.set()
        worker.join()
    assert set(rigs[0].__getstate__()) == {f.name for f in dataclasses.fields(rigs[0])}


def test_nobody_waits_for_a_renderer_that_has_stopped(marrow: Rig) -> None:
    own = Renderer()
    own.stop()
    with pytest.raises(FoxHandError, match="closing"):
        own.picture(View((standing(marrow, marrow.rest),), Camera(), 16, 16))


def test_who_waits_for_the_picture_being_drawn_is_told_that_it_closes(
    marrow: Rig, monkeypatch: pytest.MonkeyPatch
) -> None:
    own, asked, found = Renderer(), threading.Event(), list[object]()
    draw = own._draw

    def never(view: View) -> Picture:
        draw(view)
        asked.set()
        own._process.wait()  # as a driver that is at it when the program closes
        raise EOFError

    monkeypatch.setattr(own, "_draw", never)

    def wait() -> None:
        try:
            found.append(own.picture(View((standing(marrow, marrow.rest),), Camera(), 16, 16)))
        except FoxHandError as error:
            found.append(error.code)

    worker = threading.Thread(target=wait, daemon=True)
    worker.start()
    assert asked.wait(60)
    own.stop()
    worker.join(30)
    assert found == ["render.stopped"]


def test_one_bad_view_is_reported_and_the_next_is_drawn(renderer: Renderer, marrow: Rig) -> None:
    good = View((standing(marrow, marrow.rest),), Camera(), 32, 32)
    with pytest.raises(FoxHandError) as caught:
        renderer.picture(View(good.figures, Camera(), 10**6, 10**6))
    assert caught.value.code == "render.failed"
    assert renderer.picture(good).pixels.shape == (32, 32, 4)


def test_without_egl_it_says_what_to_install() -> None:
    code = (
        "from fox_hand.render import context\n"
        "import moderngl\n"
        "real = moderngl.create_context\n"
        "moderngl.create_context = lambda **k: real(**{**k, 'libegl': 'libNoEGL.so.1'})\n"
        "try:\n    context.open_context()\n"
        "except context.FoxHandError as e:\n    print(e.code, e.sentence())\n"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.startswith("render.no_context")
    assert "Install libegl1, libgl1 and libgl1-mesa-dri" in said.stdout


def test_what_glows_is_bright_in_the_dark(renderer: Renderer, marrow: Rig) -> None:
    """glTF 2.0, 3.9.3: the emissive factor is added whatever the light."""
    parts = tuple(
        dataclasses.replace(p, material=dataclasses.replace(p.material, glow=(0.0, 0.9, 0.0)))
        for p in marrow.parts
    )
    glowing = dataclasses.replace(marrow, parts=parts)
    camera = Camera(yaw=np.pi).framing(marrow.flesh(marrow.evaluate(marrow.rest)), 1.0)
    pixels = []
    for rig in (marrow, glowing):
        view = View((standing(rig, rig.rest),), camera, 96, 96, background=False)
        pixels.append(renderer.picture(view).pixels.astype(int))
    body = pixels[0][..., 3] > 250
    assert (pixels[1][body] - pixels[0][body])[:, 1].mean() > 60
    assert np.abs((pixels[1][body] - pixels[0][body])[:, 0]).mean() < 3


def test_a_second_figure_leaves_the_light_on_the_first_alone(
    renderer: Renderer, marrow: Rig
) -> None:
    """Someone who stands aside throws no shadow here and takes none away."""
    first = standing(marrow, marrow.rest)
    other = read_rig(MARROW.with_name("pim.glb"))
    at = other.evaluate(other.rest)
    nodes = at.nodes.copy()
    nodes[:, 0, 3] += 1.5
    second = Standing(other, dataclasses.replace(at, nodes=nodes))
    camera = Camera(yaw=0.3, pitch=0.05).framing(marrow.flesh(first.at), 1.0)

    def drawn(*figures: Standing) -> np.ndarray:
        view = View(figures, camera, 256, 256, Quality.FULL, background=False)
        return renderer.picture(view).pixels.astype(int)

    alone = drawn(first)
    shape = alone[..., 3] > 127
    for together in (drawn(first, second), drawn(second, first)):
        gap = np.abs(together - alone)[shape].max(-1)
        assert np.median(gap) <= 2
        assert (gap > 24).mean() < 0.02


def test_pictures_of_many_sizes_leave_no_memory_behind(tmp_path: Path) -> None:
    """A window that is resized, and quick pictures that follow the machine, ask for any size."""
    rig = read_rig(two_skins(tmp_path / "two.glb"))
    own, who = Renderer(), standing(rig, rig.rest)
    outline = (Contour("all", who),)
    rng = np.random.default_rng(3)
    sizes = rng.integers(60, 400, (100, 2))

    def draw(rows: np.ndarray) -> None:
        for number, (width, height) in enumerate(rows.tolist()):
            quality = list(Quality)[number % 3]
            small = 2 if quality is not Quality.DRAFT else 1
            view = View(
                (who,), Camera(), width // small, height // small, quality, contours=outline
            )
            own.picture(view)

    draw(sizes[:20])
    before = resident(own)
    for _ in range(4):
        draw(rng.permutation(sizes))
    assert resident(own) - before < 50
    own.stop()


def resident(renderer: Renderer) -> float:
    """Megabytes of the drawing process."""
    status = Path(f"/proc/{renderer.process_id}/status").read_text()
    return int(next(x for x in status.splitlines() if x.startswith("VmRSS")).split()[1]) / 1024
