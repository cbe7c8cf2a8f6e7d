"""``scripts/python tools/crew_picture.py``: the crew on deck, for the start screen.

Five figures of the demo wear cards of its library and stand before its lake. The picture is shipped
in ``ui/icons``; it is drawn anew when the cast changes.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image

from fox_hand.core.view.backdrop import Placed, backdrop_rig, standing_at
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Quality, Standing, View
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card
from fox_hand.render.renderer import Renderer
from fox_hand.session.app.headless import Laid, card_on, worn
from fox_hand.session.figures.figure import Figure

WHERE = Path(__file__).parents[1] / "src" / "fox_hand" / "ui" / "icons" / "crew.webp"
SIZE = 1800, 620
MIDDLE, HIGH = 0.28, 3.6  # metres: to the side, and of the backdrop
# who, which cards, where on deck: metres to the side, from the ground, towards the camera
CREW = (
    ("quill", ("Hands on hips", "Smile"), (-1.55, 0.0, 0.0)),
    ("pim", ("Arms up", "Smile"), (-0.55, 0.0, 0.1)),
    ("marrow", ("Wave", "Glad"), (0.38, 0.0, 0.1)),
    ("brandle", ("Hand on belly", "Laugh"), (1.35, 0.0, 0.0)),
    ("gull", (), (2.1, 0.75, 0.2)),
)


def standing(
    demo: Path, who: str, cards: tuple[str, ...], at: tuple[float, float, float]
) -> Standing:
    """One of them, wearing cards."""
    path = demo / "cast" / f"{who}.glb"
    figure = Figure(read_rig(path), path)
    found = {p.stem: p for p in (demo / "library" / who.title()).rglob("*.foxcard")}
    for name in cards:
        card, _ = read_card(found[name])
        figure.stand(worn(card_on(card, figure, found[name]), figure, Laid()))
    figure.stand_at(np.array(at))
    return figure.standing


def main() -> None:
    demo = shipped()
    crew = tuple(standing(demo, *one) for one in CREW)
    renderer = Renderer()
    camera = replace(Camera(), target=(MIDDLE, 0.97, 0.0), pitch=0.0, distance=5.35)
    with Image.open(demo / "backdrops" / "lake.webp") as picture:
        lake = np.asarray(picture.convert("RGBA"))
    wide = HIGH * lake.shape[1] / lake.shape[0]
    beside = lake[:, ::-1].copy()  # so that edges meet
    sky = round(0.42 * len(lake))
    beside[:sky] = beside[:sky, :1]  # there is one sun
    places = ((beside, -wide), (beside, wide), (lake, 0.0))
    behind = [
        standing_at(backdrop_rig("lake", one), Placed(False, MIDDLE + x, 0.0, HIGH))
        for one, x in places
    ]
    deck = backdrop_rig("deck", np.full((4, 96, 4), (0x6B, 0x48, 0x36, 255), np.uint8))
    behind.append(standing_at(deck, Placed(False, MIDDLE, -1.0, 1.02)))
    view = View(crew, camera, *SIZE, Quality.CARD, backdrops=tuple(behind))
    pixels = renderer.picture(view).pixels
    renderer.stop()
    Image.fromarray(pixels).convert("RGB").save(WHERE, "WEBP", quality=86, method=6)
    print(f"{WHERE}: {WHERE.stat().st_size / 1000:.0f} kB")


if __name__ == "__main__":
    main()
