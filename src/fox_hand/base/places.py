"""Where settings, state and caches of this user lie (XDG folders)."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import platformdirs

APPLICATION = "fox-hand"


@dataclass(frozen=True)
class Places:
    """Folders of one user; tests use folders of their own.

    Args:
        config: settings.
        state: unfinished work.
        data: what the user made, such as a copy of the demo.
        cache: what can be made again.
    """

    config: Path
    state: Path
    data: Path
    cache: Path

    @staticmethod
    def of_user() -> Places:
        """The XDG folders of the person at the machine."""
        return Places(
            platformdirs.user_config_path(APPLICATION),
            platformdirs.user_state_path(APPLICATION),
            platformdirs.user_data_path(APPLICATION),
            platformdirs.user_cache_path(APPLICATION),
        )

    @staticmethod
    def under(folder: Path) -> Places:
        """All of them below one folder."""
        return Places(*(folder / name for name in ("config", "state", "data", "cache")))
