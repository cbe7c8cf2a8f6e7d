"""What is found out about a host, and how."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.interchange.link.connection import Connection, LinkError

NOT_SO = (KeyError, IndexError, TypeError, ValueError, AttributeError, RecursionError)


@dataclass(frozen=True)
class Finding:
    """One thing that was tried.

    Args:
        what: was wanted.
        right: whether it was so.
        detail: what was found instead, or a number.
    """

    what: str
    right: bool
    detail: str = ""


def tried(what: str, attempt: Callable[[], str]) -> Finding:
    try:
        return Finding(what, True, attempt())
    except (LinkError, WrongError) as error:
        return Finding(what, False, error.happened)
    except OSError as error:
        return Finding(what, False, error.strerror or str(error))
    except NOT_SO as error:
        return Finding(what, False, tr("not as described: {error}", error=repr(error)))


class WrongError(FoxHandError):
    """Something came otherwise than the protocol has it."""

    def __init__(self, happened: str) -> None:
        super().__init__("link.wrong", happened)


def expect(is_so: bool, otherwise: str) -> None:
    if not is_so:
        raise WrongError(otherwise)


def expect_no(code: int, attempt: Callable[[], object]) -> None:
    try:
        attempt()
    except LinkError as error:
        expect(error.number == code, tr("refused with {code}", code=error.number))
        return
    raise WrongError(tr("it was not refused"))


def channels_of(link: Connection, rig: str) -> tuple[dict[str, dict[str, float]], int]:
    said = link.ask("values", {"rig": rig})
    return said["values"], int(said["revision"])
