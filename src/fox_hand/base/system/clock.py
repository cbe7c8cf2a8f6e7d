"""What time it is where a file lies, and when a file was written: clocks differ by years."""

from __future__ import annotations

import datetime
import os
import tempfile
import time
from pathlib import Path


def now_at(folder: Path) -> float:
    """Seconds since 1970 by the clock that dates the files of a folder, which on a share is the
    other machine's; this machine's where nothing can be written.

    The age of a file is compared with it: by a clock that is an hour ahead of the share's, a file
    that somebody is just writing would look forsaken.
    """
    try:
        with tempfile.TemporaryFile(dir=folder) as file:
            return os.fstat(file.fileno()).st_mtime
    except OSError:
        return time.time()


def written(path: Path) -> datetime.datetime:
    """When a file was written, in the local time; what no calendar holds is 1970.

    Raises:
        OSError: if it is not there.
    """
    try:
        return datetime.datetime.fromtimestamp(path.stat().st_mtime).astimezone()
    except (ValueError, OverflowError):  # the year 60,000 of a damaged disk
        return datetime.datetime.fromtimestamp(0).astimezone()
