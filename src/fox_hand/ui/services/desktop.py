"""What the desktop around the window does for us."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices


def show_file(path: Path) -> None:
    """Show a file in the system's own file manager."""
    QDesktopServices.openUrl(QUrl.fromLocalFile(str(path.parent)))
