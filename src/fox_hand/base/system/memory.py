"""How memory is given back to the system (glibc, ``mallopt(3)``)."""

from __future__ import annotations

import ctypes

TRIM_THRESHOLD, MMAP_THRESHOLD, ARENA_MAX = -1, -3, -8  # M_... of malloc.h
LARGE = 512 << 10  # bytes of what is given back as soon as it is let go


def give_back_large_blocks() -> None:
    """Pictures come and go by the thousand, and small things that stay lie between them. Left to
    itself the allocator soon keeps large blocks, too, in one heap full of holes that can never
    shrink. From now on they are the system's own, and threads share two heaps. Elsewhere than on
    glibc nothing is done."""
    adjust = getattr(ctypes.CDLL(None), "mallopt", None)
    if adjust is not None:
        for what, value in ((MMAP_THRESHOLD, LARGE), (TRIM_THRESHOLD, 8 << 20), (ARENA_MAX, 2)):
            adjust(what, value)
