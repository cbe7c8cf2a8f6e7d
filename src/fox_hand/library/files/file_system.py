"""Whether a folder lies on another machine, where changes are not announced."""

from __future__ import annotations

import contextlib
from pathlib import Path

MOUNTS = Path("/proc/self/mountinfo")
FAR = frozenset({"nfs", "nfs4", "cifs", "smb3", "smbfs", "9p", "afs", "ceph", "glusterfs", "davfs"})
FAR_FUSE = ("fuse.sshfs", "fuse.rclone", "fuse.davfs2", "fuse.glusterfs", "fuse.s3fs", "fuse.curl")


def is_remote(folder: Path, mounts: Path = MOUNTS) -> bool:
    """Whether changes by others must be looked for.

    Args:
        folder: some folder.
        mounts: the system's list, in the format of proc(5), ``mountinfo``.
    """
    kind = _kind(folder, mounts)
    return kind in FAR or kind.startswith(FAR_FUSE)


def _kind(folder: Path, mounts: Path) -> str:
    """Type of the file system of the longest mount point above a folder; empty if unknown."""
    text = ""
    with contextlib.suppress(OSError):
        text = mounts.read_text("utf-8", "replace")
    best, kind = -1, ""
    for line in text.splitlines():
        mount, _, system = line.partition(" - ")
        fields = mount.split()
        if len(fields) < 5 or not system:
            continue
        point = Path(fields[4].replace("\\040", " "))
        if folder.is_relative_to(point) and len(point.parts) >= best:
            best, kind = len(point.parts), system.split()[0]
    return kind
