"""What is said where the figures no longer fit into memory."""

from __future__ import annotations

import signal

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

# the system ends whoever holds most when memory runs out, without a word
ENDED_BY_SYSTEM = -signal.SIGKILL
OPENGL_WORD = "GL_OUT_OF_MEMORY"


def no_memory(detail: str = "") -> FoxHandError:
    """The figures of a view do not fit into memory."""
    return FoxHandError(
        "render.memory",
        tr("The stage cannot be drawn: what stands on it no longer fits into memory."),
        tr("The figures and their poses are untouched, and can be saved."),
        tr("Take characters off that are not needed, or close other programs."),
        detail,
    )
