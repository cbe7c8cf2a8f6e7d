"""One command on one hostile file, in a process of its own that is watched."""

from __future__ import annotations

import os
import re
import signal
import sys
import tempfile
import time
import traceback
from dataclasses import dataclass
from pathlib import Path

FAULT = 70  # a fault inside the program, which is written into its log
SECONDS, MEGABYTES = 5.0, 500.0
# words of an interpreter that people must never read
RAW = re.compile(
    r"Traceback|surrogate|recursion|codec|utf-8'|NoneType|object is not|Errno|errno|KeyError|"
    r"IndexError|ValueError|TypeError|MemoryError|OverflowError|out of range|`\$|numpy|<class",
)


@dataclass(frozen=True)
class Trial:
    """What became of it.

    Args:
        code: exit status, negative for a signal.
        said: all that was printed.
        seconds: of the processor; waiting for ever is ended after four times as many.
        megabytes: the most memory it had.
    """

    code: int
    said: str
    seconds: float
    megabytes: float

    @property
    def wrong(self) -> str:
        """What should not have been; empty if nothing."""
        raw = RAW.search(self.said)
        if self.code < 0 or self.code > 2:
            return f"ended with {self.code}: {self.said[-300:]}"
        if raw is not None:
            return f"said {raw[0]!r}: {self.said[-300:]}"
        if self.seconds > SECONDS:
            return f"took {self.seconds:.1f} s"
        return f"took {self.megabytes:.0f} MB" if self.megabytes > MEGABYTES else ""


def ready() -> None:
    """Load what the commands need, once for all trials."""
    import PIL.ImageFile  # noqa: F401

    import fox_hand.__main__
    import fox_hand.cli.app
    import fox_hand.interchange.motions
    import fox_hand.interchange.readers
    import fox_hand.interchange.rig_report
    import fox_hand.library.index.index
    import fox_hand.library.store.contact_sheet
    import fox_hand.session.app.headless
    import fox_hand.session.libraries.care_report
    import fox_hand.session.libraries.open_libraries
    import fox_hand.session.libraries.packing
    import fox_hand.session.shots.shot_file  # noqa: F401


def attempt(arguments: list[str], home: Path) -> Trial:
    """Run one command in a copy of this process."""
    with tempfile.TemporaryFile() as output:
        child = os.fork()
        if child == 0:
            _command(arguments, home, output.fileno())
        status, seconds, kibibytes = _ended(child)
        output.seek(0)
        said = output.read().decode("utf-8", "replace")
    if status == FAULT:
        logs = (home / "state" / "fox-hand" / "log").glob("*.log")
        said += "".join(log.read_text("utf-8", "replace")[-600:] for log in logs)
    return Trial(status, said, seconds, kibibytes / 1024)


def _command(arguments: list[str], home: Path, output: int) -> None:
    for number in (1, 2):
        os.dup2(output, number)
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    sys.stdout = os.fdopen(1, "w", encoding="utf-8", errors="surrogateescape")
    sys.stderr = os.fdopen(2, "w", encoding="utf-8", errors="surrogateescape", buffering=1)
    state = str(home / "state")
    os.environ.update(HOME=str(home), XDG_CACHE_HOME=str(home / "cache"), XDG_STATE_HOME=state)
    code = 99
    try:
        from fox_hand.__main__ import main

        sys.argv = ["fox-hand", *arguments]
        main()
        code = 0
    except SystemExit as ended:
        code = ended.code if isinstance(ended.code, int) else int(ended.code is not None)
    except BaseException:  # noqa: BLE001 - this is what the trial looks for
        traceback.print_exc()
    finally:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)


def _ended(child: int) -> tuple[int, float, int]:
    """Exit status, seconds of the processor and the most memory in KiB; what takes far too long
    is killed."""
    end = time.monotonic() + 4 * SECONDS
    while time.monotonic() < end:
        number, status, usage = os.wait4(child, os.WNOHANG)
        if number:
            break
        time.sleep(0.005)
    else:
        os.kill(child, signal.SIGKILL)
        _, status, usage = os.wait4(child, 0)
    seconds = usage.ru_utime + usage.ru_stime
    return os.waitstatus_to_exitcode(status), seconds, usage.ru_maxrss
