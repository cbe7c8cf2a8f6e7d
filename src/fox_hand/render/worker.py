"""The process that draws; its first argument is the descriptor of its pipe.

Drawing has a process of its own because the OpenGL calls of a software driver take long and hold
the interpreter's lock: in a thread they would stop the window.
"""

from __future__ import annotations

import contextlib
import os
import sys
import traceback
from multiprocessing.connection import Connection

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.rig.rig import Rig
from fox_hand.render.engine import Engine
from fox_hand.render.wire import answer, answer_error, read_view


def serve(connection: Connection) -> None:
    """Draw what is asked for until the other side goes away."""
    engine: Engine | None = None
    failure: FoxHandError | None = None
    try:
        engine = Engine()
        connection.send(("ready", engine.renderer))
    except FoxHandError as error:
        failure = error
    except Exception as error:  # noqa: BLE001 - a broken driver or install must reach people
        failure = FoxHandError(
            "render.no_start",
            tr("Drawing could not begin on this machine."),
            tr("Cards and poses can still be read and saved."),
            tr("Install Fox Hand again; if it comes back, Help > About has the details to copy."),
            "".join(traceback.format_exception(error)),
        )
    if failure is not None:
        answer_error(connection, failure)
    rigs: dict[int, Rig] = {}
    while True:
        try:
            kind, key, content = connection.recv()
        except (EOFError, OSError):
            return
        if kind == "rig":
            rigs[key] = content
        elif kind == "forget":
            rig = rigs.pop(key)
            if engine is not None:
                engine.forget(rig)
        elif engine is None:
            assert failure is not None
            answer_error(connection, failure)
        elif not _draw(connection, engine, content, rigs):
            return


def _draw(connection: Connection, engine: Engine, data: bytes, rigs: dict[int, Rig]) -> bool:
    """Draw and answer; False if nobody is there to take it any more."""
    try:
        picture = engine.draw(read_view(data, rigs))
    except Exception as error:  # noqa: BLE001 - reported to the one who asked; the next may work
        answer_error(connection, error)
        return True
    try:
        answer(connection, picture)
    except OSError:
        return False
    return True


def main() -> None:
    os.nice(6)  # the window goes first
    with contextlib.suppress(BrokenPipeError):  # nobody is there any more
        serve(Connection(int(sys.argv[1])))


if __name__ == "__main__":
    main()
