"""Views that are kept with a figure."""

from __future__ import annotations

from collections.abc import Callable

from fox_hand.base.language import tr
from fox_hand.core.view.camera import Camera
from fox_hand.session.figures.figure import ChangeStep, Figure


def view_step(
    actor: Figure, name: str, camera: Camera | None, changed: Callable[[], None]
) -> ChangeStep:
    """Keeping a view under a name, or with None forgetting it; nothing is done yet.

    Args:
        changed: called each time it was done or undone.
    """
    before = actor.views
    others = {k: v for k, v in before.items() if k != name}
    after = others if camera is None else {**others, name: camera}

    def put(views: dict[str, Camera]) -> None:
        actor.views = views
        actor.changed.emit()
        changed()

    label = tr("Keep the view {name}", name=name)
    if camera is None:
        label = tr("Forget the view {name}", name=name)
    return ChangeStep(label, lambda: put(before), lambda: put(after))
