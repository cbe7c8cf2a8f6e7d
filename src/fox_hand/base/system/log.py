"""The log: what went wrong, for whoever helps. It lies in the user's state folder.

At the usual level it names no files of people: paths and quoted names in messages of the
interpreter are left out. ``--verbose`` writes them, and everything else, too.
"""

from __future__ import annotations

import faulthandler
import logging
import re
import sys
import traceback
from dataclasses import dataclass
from pathlib import Path
from typing import IO

ROOT = "fox_hand"
LARGEST, KEPT = 500_000, 3  # bytes a file, and how many older ones
LINES = 60  # of the end of the log that are copied with details
NAMES = re.compile(r"'[^']*'|\"[^\"]*\"|(?:[A-Za-z]:)?[^\s:(,]*/[^\s:),]*")
HIDDEN = "…"


@dataclass(frozen=True)
class LogFiles:
    """Where the log lies.

    Args:
        log: what this program writes.
        crashes: what the interpreter writes when it is killed by a fault, and what the drawing
            process and its driver print; None where the folder cannot be written.
    """

    log: Path
    crashes: Path | None

    def tail(self) -> str:
        """The last lines of both; empty where there are none."""
        found = []
        for path in (self.log, self.crashes):
            try:
                lines = path.read_text("utf-8", "replace").splitlines() if path else []
            except OSError:
                lines = []
            if lines:
                found.append("\n".join([f"-- {path.name if path else ''}", *lines[-LINES:]]))
        text = "\n".join(found)  # what the interpreter and drivers print names files as they are
        return text if talkative() else discreet(text)


class _Discreet(logging.Formatter):
    """Exceptions without the names of files that their messages hold."""

    def __init__(self) -> None:
        super().__init__("%(asctime)s %(levelname)s %(name)s: %(message)s")

    def format(self, record: logging.LogRecord) -> str:
        text = super().format(record)
        return text if talkative() else discreet(text)


def discreet(text: str) -> str:
    """A text in which paths and quoted names are left out, but for places in this program."""
    return "\n".join(_discreet_line(line) for line in text.splitlines())


def _discreet_line(line: str) -> str:
    place = re.match(r'(\s*File )"([^"]*)"(, line \d+.*)', line)
    if place is not None:
        parts = Path(place[2]).parts
        own = parts[parts.index(ROOT) :] if ROOT in parts else parts[-2:]
        return f"{place[1]}{'/'.join(own)}{place[3]}"
    if re.match(r"\s{4}", line):
        return line  # a line of code
    return NAMES.sub(HIDDEN, line)


def talkative() -> bool:
    """Whether everything is written, names of files included."""
    return logging.getLogger(ROOT).isEnabledFor(logging.DEBUG)


def say_more() -> None:
    """Write everything, on the terminal as well."""
    logger = logging.getLogger(ROOT)
    logger.setLevel(logging.DEBUG)
    if not any(type(h) is logging.StreamHandler for h in logger.handlers):
        shown = logging.StreamHandler()
        shown.setFormatter(logging.Formatter("%(name)s: %(message)s"))
        logger.addHandler(shown)


def start_log(folder: Path) -> LogFiles:
    """Begin to write. A folder that cannot be written costs the log, never the start.

    Args:
        folder: where the files lie.
    """
    from logging.handlers import RotatingFileHandler  # noqa: PLC0415 - takes long to import

    logger = logging.getLogger(ROOT)
    logger.propagate = False
    if logger.level == logging.NOTSET:
        logger.setLevel(logging.INFO)
    files = LogFiles(folder / "fox-hand.log", folder / "crashes.log")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(
            files.log, maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8", errors="replace"
        )
        crashes = _crash_file(folder / "crashes.log")
    except OSError:
        logger.addHandler(logging.NullHandler())
        return LogFiles(files.log, None)
    handler.setFormatter(_Discreet())
    logger.addHandler(handler)
    faulthandler.enable(crashes)
    return files


def _crash_file(path: Path) -> IO[str]:
    """Opened for the rest of the process: the interpreter writes there when all else is over."""
    too_long = path.exists() and path.stat().st_size > LARGEST
    return path.open("w" if too_long else "a", encoding="utf-8")


def words_of(error: BaseException) -> str:
    """An error with where it came from, as it may be copied and sent."""
    return discreet("".join(traceback.format_exception(error)))


def note_fault(error: BaseException, where: str) -> None:
    """Write down an error that should not have happened."""
    logging.getLogger(f"{ROOT}.{where}").error("unexpected", exc_info=error)


def interpreter() -> str:
    """Which Python this is."""
    return f"Python {sys.version.split()[0]}"
