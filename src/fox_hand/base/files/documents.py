"""JSON and TOML of others: read with a limit on how deep they nest, and errors said in words."""

from __future__ import annotations

import re
import tomllib
from typing import Annotated, Any, TypeVar

import msgspec

from fox_hand.base.language import tr

DEEPEST = 64  # lists in lists; nothing that is read here needs a tenth of it
STRINGS = re.compile(rb'"(?:[^"\\]|\\.)*+"', re.DOTALL)
NO_BRACKETS = bytes(set(range(256)) - set(b"[]{}"))
BADLY = re.compile(r"at `\$([^`]*)`")

BEYOND = 1e9  # metres, radians, frames: nothing that is drawn is as large
Number = Annotated[float, msgspec.Meta(ge=-BEYOND, le=BEYOND)]
Positive = Annotated[float, msgspec.Meta(gt=0, le=BEYOND)]

Kind = TypeVar("Kind")


class TooDeepError(msgspec.DecodeError):
    """Lists in lists in lists: no file of any kind here does that."""


def decode_json(text: bytes, kind: type[Kind]) -> Kind:
    """A JSON text as ``kind``.

    Raises:
        msgspec.MsgspecError: among others :class:`TooDeepError`; :func:`wrong_with` has words.
        UnicodeDecodeError: where it is not UTF-8.
    """
    check_depth(text)
    return msgspec.json.decode(text, type=kind)


def decode_object(text: bytes) -> dict[str, Any]:
    """A JSON text that is an object, otherwise as :func:`decode_json`."""
    return decode_json(text, dict[str, Any])


def check_depth(text: bytes) -> None:
    """Whether a JSON text nests no deeper than :data:`DEEPEST`.

    Raises:
        TooDeepError: if it does.
    """
    if text.count(b"[") + text.count(b"{") <= DEEPEST:
        return
    brackets = STRINGS.sub(b"", text).translate(None, NO_BRACKETS)
    for _ in range(DEEPEST):
        if not brackets:
            return
        # what holds nothing more goes, so each turn takes one level away or more
        brackets = brackets.replace(b"[]", b"").replace(b"{}", b"")
    if brackets.count(b"[") + brackets.count(b"{") > DEEPEST:  # fewer: it is only not closed
        raise TooDeepError(tr("it is nested more than {deepest} deep", deepest=DEEPEST))


def decode_toml(text: str) -> dict[str, Any]:
    """A TOML text.

    Raises:
        tomllib.TOMLDecodeError: :func:`wrong_with` has words.
    """
    if any(_names_too_deep(line) for line in text.splitlines()):
        raise tomllib.TOMLDecodeError(tr("it is nested more than {deepest} deep", deepest=DEEPEST))
    try:
        return tomllib.loads(text)
    except RecursionError as error:
        raise tomllib.TOMLDecodeError(
            tr("it is nested more than {deepest} deep", deepest=DEEPEST)
        ) from error


def _names_too_deep(line: str) -> bool:
    """A name of many names with dots between them, for which the parser takes ages."""
    if line.count(".") <= DEEPEST:
        return False
    bare = STRINGS.sub(b"", line.encode("utf-8", "replace"))
    return bare.partition(b"#")[0].partition(b"=")[0].count(b".") > DEEPEST


WORDS = {
    "int": tr("a whole number"),
    "float": tr("a number"),
    "str": tr("a text"),
    "bool": tr("yes or no"),
    "object": tr("an object"),
    "array": tr("a list"),
    "null": "nothing",
}


def _in_words(said: str) -> str:
    """What the JSON library says, without the names of a programming language."""
    if "out of range" in said:
        return tr("a number is too large")
    plain = re.sub(r"`(\w+)( \| \w+)*`", lambda m: WORDS.get(m[1], m[1]), said).replace("`", "")
    return plain[:1].lower() + plain[1:]


def wrong_with(error: Exception) -> str:
    """What is wrong with a text that could not be decoded, for people: half a sentence."""
    if isinstance(error, UnicodeDecodeError):
        return tr("it is not text in UTF-8")
    if isinstance(error, TooDeepError | RecursionError):
        return tr("it is nested more than {deepest} deep", deepest=DEEPEST)
    if isinstance(error, msgspec.ValidationError):
        found = BADLY.search(str(error))
        place = found[1].lstrip(".") if found else ""
        what = _in_words(str(error).partition(" - at")[0])
        return (
            tr("{what} at {place}", what=what, place=place)
            if place
            else tr("{what} at its top", what=what)
        )
    if isinstance(error, tomllib.TOMLDecodeError):
        return tr("it is not TOML: {error}", error=error)
    if isinstance(error, OSError):
        return error.strerror or tr("the system gives no reason")
    if isinstance(error, msgspec.MsgspecError):
        return tr("it is not whole JSON")
    return str(error)
