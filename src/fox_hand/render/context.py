"""The drawing context: offscreen OpenGL through EGL."""

from __future__ import annotations

from importlib import resources

import moderngl

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr


def open_context() -> moderngl.Context:
    """A new context that belongs to the calling thread.

    Raises:
        FoxHandError: ``render.no_context``, naming the packages to install.
    """
    try:
        return moderngl.create_context(
            standalone=True,
            require=330,
            # the stubs take the settings of the backend for a dict
            backend="egl",  # type: ignore[arg-type]
            libgl="libGL.so.1",  # type: ignore[arg-type]
            libegl="libEGL.so.1",  # type: ignore[arg-type]
        )
    except Exception as error:
        # the context library raises bare Exception for every reason
        raise FoxHandError(
            "render.no_context",
            tr("The stage cannot be drawn: this machine offers no OpenGL 3.3 through EGL."),
            tr("Cards and poses can still be read."),
            tr("Install libegl1, libgl1 and libgl1-mesa-dri, then start again."),
            str(error),
        ) from error


def shader(name: str, taps: int = 1) -> str:
    """The source of a shader that ships with the package, with its constant ``TAPS``."""
    source = resources.files("fox_hand.render.shaders").joinpath(name).read_text("utf-8")
    version, rest = source.split("\n", 1)
    return f"{version}\n#define TAPS {taps}\n{rest}"
