"""``scripts/python tools/catalogues.py``: the catalogues of the other languages.

Gathers every text that goes through ``tr`` or ``tr_n`` and what commands say of themselves, brings
the catalogues in line with them and compiles them. What is new stands in them without an answer;
what is not said any more leaves. ``--check`` changes nothing and ends with 1 where a text has no
answer, one is not used, fields differ or a compiled file is not of its catalogue.
"""

from __future__ import annotations

import ast
import datetime
import inspect
import io
import string
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from babel.messages.catalog import Catalog, Message
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

from fox_hand.base.language import CATALOGUES, DOMAIN, LANGUAGES, tr, tr_n

SOURCE = Path(__file__).parents[1] / "src" / "fox_hand"
EPOCH = datetime.datetime(2026, 1, 1, tzinfo=datetime.UTC)
DATED = ('"POT-Creation', '"PO-Revision', '"Generated')  # lines that differ each time
SINGLE, COUNTED = tr.__name__, tr_n.__name__


@dataclass(frozen=True)
class Text:
    """A text of the source.

    Args:
        one: for one thing, or at all.
        many: for several; empty where nothing is counted.
        where: its module.
    """

    one: str
    many: str
    where: str

    @property
    def key(self) -> str | tuple[str, str]:
        """How a catalogue names it."""
        return (self.one, self.many) if self.many else self.one


def texts_of(path: Path, commands: set[str]) -> Iterator[Text]:
    """The texts of one module, from top to bottom; ``commands`` are the names of functions whose
    description is one."""
    where = str(path.relative_to(SOURCE.parents[1]))
    tree = ast.parse(path.read_text("utf-8"))
    found = [
        (node.lineno, text)
        for node in ast.walk(tree)
        if isinstance(node, ast.Call | ast.FunctionDef)
        for text in _of_node(node, where, commands)
    ]
    yield from (text for _, text in sorted(found, key=lambda one: one[0]))


def commands_of(path: Path) -> set[str]:
    """Functions that a module of the command line makes commands of."""
    if not _of_command_line(path):
        return set()
    tree = ast.parse(path.read_text("utf-8"))
    return {name for node in ast.walk(tree) for name in _registered(node)}


def _of_command_line(path: Path) -> bool:
    return path.relative_to(SOURCE).parts[0] == "cli"


def _registered(node: ast.AST) -> Iterator[str]:
    """The function in ``command(app)(function)``."""
    made = node.func if isinstance(node, ast.Call) else None
    if isinstance(node, ast.Call) and isinstance(made, ast.Call) and _called(made) == "command":
        yield from (argument.id for argument in node.args if isinstance(argument, ast.Name))


def _called(node: ast.Call) -> str:
    return node.func.id if isinstance(node.func, ast.Name) else ""


def _of_node(node: ast.Call | ast.FunctionDef, where: str, commands: set[str]) -> Iterator[Text]:
    if isinstance(node, ast.Call) and _called(node) in (SINGLE, COUNTED):
        words = [_literal(argument) for argument in node.args[:2]]
        if _called(node) == SINGLE and words and words[0]:
            yield Text(words[0], "", where)
        elif _called(node) == COUNTED and len(words) == 2 and words[0] and words[1]:
            yield Text(words[0], words[1], where)
    if isinstance(node, ast.FunctionDef) and node.name in commands:
        yield Text(inspect.cleandoc(ast.get_docstring(node) or ""), "", where)


def _literal(node: ast.expr) -> str | None:
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    return None


def place(language: str) -> Path:
    """Where the catalogue of a language is kept; what is made of it lies beside it."""
    return CATALOGUES / language / "LC_MESSAGES" / f"{DOMAIN}.po"


def gathered() -> Catalog:
    """All texts, without answers."""
    catalogue = Catalog(project="Fox Hand", charset="utf-8", fuzzy=False)
    counted: dict[str, Text] = {}
    paths = sorted(SOURCE.rglob("*.py"))
    commands = set().union(*map(commands_of, paths))
    for path in paths:
        for text in texts_of(path, commands if _of_command_line(path) else set()):
            other = counted.setdefault(text.one, text)
            if text.many and not other.many:
                catalogue.delete(other.one)
            elif other.many and not text.many:
                text = Text(text.one, other.many, text.where)  # noqa: PLW2901 - said both ways
            flags = ["python-brace-format"] if fields(text.one + text.many) else []
            catalogue.add(text.key, locations=[(text.where, 0)], flags=flags)
    return catalogue


def fields(text: str) -> set[str]:
    """The names of what is filled into a text."""
    return {name for _, name, _, _ in string.Formatter().parse(text) if name}


def read(language: str) -> Catalog:
    """The catalogue of a language as it is kept; an empty one where there is none."""
    path = place(language)
    if not path.is_file():
        return Catalog(locale=language)
    with path.open("rb") as file:
        return read_po(file, locale=language)


def brought_in_line(language: str) -> Catalog:
    """What a language says to all texts there are."""
    old, new = read(language), gathered()
    made = Catalog(locale=language, project="Fox Hand", charset="utf-8", fuzzy=False)
    for message in new:
        if message.id:
            known = old.get(_one(message))
            answer = known.string if known is not None and not known.fuzzy else ""
            flags = message.flags
            made.add(message.id, answer, locations=message.locations, flags=flags)
    return made


def problems_of(language: str) -> list[str]:
    """What is not in order with a catalogue, a line each."""
    found, wanted = [], {_one(m): m for m in gathered() if m.id}
    kept = read(language)
    unused = [_one(m) for m in kept if m.id and _one(m) not in wanted]
    found += [f"{language}: not used any more: {text!r}" for text in unused]
    for key, message in wanted.items():
        answer = kept.get(key)
        found += [f"{language}: {why}: {key!r}" for why in _wrong(message, answer)]
    compiled = place(language).with_suffix(".mo")
    if not compiled.is_file() or compiled.read_bytes() != _compiled(kept):
        found.append(f"{language}: {compiled.name} is not of its catalogue")
    return found


def _wrong(message: Message, answer: Message | None) -> Iterator[str]:
    said = () if answer is None else _all(answer.string)
    if not said or not all(said):
        yield "no answer"
        return
    asked = _all(message.id)
    if len(said) < len(asked):
        yield "counted, and answered once"
    allowed = fields("".join(asked)) | ({"number"} if len(asked) == 2 else set())
    for text in said:
        other = fields(text)
        if other - allowed or (len(asked) == 1 and allowed - other):
            yield f"fields {sorted(other ^ allowed)} differ"


def _all(texts: object) -> tuple[str, ...]:
    return tuple(map(str, texts)) if isinstance(texts, tuple | list) else (str(texts),)


def _one(message: Message) -> str:
    return _all(message.id)[0]


def _compiled(catalogue: Catalog) -> bytes:
    file = io.BytesIO()
    catalogue.creation_date = catalogue.revision_date = EPOCH  # else it differs each minute
    write_mo(file, catalogue)
    return file.getvalue()


def write(language: str) -> None:
    """Bring a catalogue in line and compile it."""
    made = brought_in_line(language)
    place(language).parent.mkdir(parents=True, exist_ok=True)
    text = io.BytesIO()
    write_po(text, made, width=100, omit_header=False, include_lineno=False, sort_by_file=True)
    lines = text.getvalue().decode().splitlines(keepends=True)
    kept = "".join(
        li for li in lines if not li.startswith(('"POT-Creation', '"PO-Revision', '"Generated'))
    )
    place(language).write_text(kept, "utf-8")
    place(language).with_suffix(".mo").write_bytes(_compiled(read(language)))


def main(words: list[str]) -> int:
    """``--check`` or nothing."""
    others = [language for language in LANGUAGES if language != "en"]
    if "--check" not in words:
        for language in others:
            write(language)
    problems = [problem for language in others for problem in problems_of(language)]
    for problem in problems[:40]:
        print(problem)
    print(f"{len(problems)} to put right" if problems else "All catalogues are complete.")
    return 1 if problems else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
