"""Format versions: read what is older, refuse what is newer with a sentence."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

Step = Callable[[dict[str, Any]], dict[str, Any]]


def upgrade(
    document: dict[str, Any], *, current: int, steps: Mapping[int, Step], what: str
) -> dict[str, Any]:
    """Bring a decoded document to the current version, one version at a time.

    Args:
        document: the decoded file; its ``version`` says what it is.
        current: the version this program writes.
        steps: for each version below ``current`` the function that lifts it by one.
        what: the word for the file in a message, such as ``"card"``.

    Raises:
        FoxHandError: ``version.missing`` or ``version.newer``.
    """
    version = document.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FoxHandError(
            "version.missing",
            tr("This {what} does not say which format version it has.", what=what),
            tr("It was left as it is."),
        )
    if version > current:
        raise FoxHandError(
            "version.newer",
            tr(
                "This {what} was made by a newer Fox Hand (format {version}; this one "
                "reads up to {current}).",
                what=what,
                version=version,
                current=current,
            ),
            tr("It was left as it is."),
            tr("Update Fox Hand to open it."),
        )
    while version < current:
        document = steps[version](document)
        version += 1
        document["version"] = version
    return document
