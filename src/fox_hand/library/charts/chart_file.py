"""Reading and writing ``charts/<name>.foxchart.toml``."""

from __future__ import annotations

import contextlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_toml, wrong_with
from fox_hand.base.files.inputs import read_text
from fox_hand.base.language import tr
from fox_hand.library.charts.chart import FOLDER, SUFFIX, VERSION, Assigned, Chart, Slot
from fox_hand.library.files.atomic import make_folder, write_atomically
from fox_hand.library.format.library_file import toml_list, toml_text
from fox_hand.library.format.names import natural

KEPT = tr("It was left as it is.")
FROM_HERE = "# From here on: which cards fill the slots. Kept by Fox Hand."


@dataclass(frozen=True)
class ChartFile:
    """A chart and where it is.

    Args:
        path: the file.
        chart: what it says.
        text: the same as it stands there.
    """

    path: Path
    chart: Chart
    text: str = ""

    @property
    def key(self) -> str:
        """What tells it from other charts of the library: the file's name."""
        return self.path.name.removesuffix(SUFFIX)


def read_charts(folder: Path) -> tuple[list[ChartFile], list[FoxHandError]]:
    """All charts of a library by name, and what is wrong with those that cannot be read."""
    found, wrong = list[ChartFile](), list[FoxHandError]()
    with contextlib.suppress(OSError):
        for path in sorted((folder / FOLDER).iterdir(), key=lambda p: natural(p.name)):
            if path.name.endswith(SUFFIX) and not path.name.startswith("."):
                try:
                    found.append(read_chart(path))
                except FoxHandError as error:
                    wrong.append(error)
    return found, wrong


def read_chart(path: Path) -> ChartFile:
    """Read one.

    Raises:
        FoxHandError: ``chart.damaged``, ``version.newer`` or ``chart.unreachable``.
    """
    try:
        text = read_text(path)
        raw = decode_toml(text)
    except OSError as error:
        why = error.strerror or str(error)
        raise FoxHandError(
            "chart.unreachable",
            tr("The chart {path} cannot be read ({why}).", path=path, why=why),
            KEPT,
        ) from error
    except ValueError as error:
        raise _damaged(path, wrong_with(error)) from error
    return ChartFile(path, chart_of(raw, path), text)


def chart_of(raw: dict[str, Any], path: Path) -> Chart:
    """A chart from its document.

    Raises:
        FoxHandError: ``chart.damaged`` or ``version.newer``.
    """
    version = raw.get("version", VERSION)
    if isinstance(version, int) and version > VERSION:
        raise FoxHandError(
            "version.newer",
            tr(
                "The chart {name} was made by a newer Fox Hand (format {version}; this "
                "one reads up to {version_2}).",
                name=path.name,
                version=version,
                version_2=VERSION,
            ),
            KEPT,
            tr("Update Fox Hand to use it."),
        )
    try:
        chart = msgspec.convert(raw, Chart)
    except msgspec.ValidationError as error:
        raise _damaged(path, wrong_with(error)) from error
    keys = [slot.key for slot in chart.slots]
    twice = next((key for key in keys if keys.count(key) > 1), None)
    if twice is not None:
        raise _damaged(path, tr("two of its slots have the key {twice}", twice=twice))
    return chart


def _damaged(path: Path, why: str) -> FoxHandError:
    return FoxHandError(
        "chart.damaged",
        tr("The chart {name} cannot be read: {why}.", name=path.name, why=why),
        KEPT,
        tr("Mend it by hand."),
    )


def chart_text(chart: Chart) -> str:
    """A chart as it is written."""
    lines = [f"version = {VERSION}", f"name = {toml_text(chart.name)}"]
    if chart.source:
        lines.append(f"source = {toml_text(chart.source)}")
    if chart.characters:
        lines.append(f"characters = {toml_list(chart.characters)}")
    for slot in chart.slots:
        lines += ["", *_slot_lines(slot)]
    return "\n".join(lines) + "\n" + assigned_text(chart.assigned)


def _slot_lines(slot: Slot) -> list[str]:
    lines = ["[[slots]]", f"key = {toml_text(slot.key)}", f"name = {toml_text(slot.name)}"]
    texts = {f: getattr(slot, f) for f in ("region", "side", "looks", "picture", "pose")}
    lines += [f"{field} = {toml_text(text)}" for field, text in texts.items() if text]
    if slot.wanted != 1:
        lines.append(f"wanted = {slot.wanted}")
    lists = {f: getattr(slot, f) for f in ("words", "stands_for")}
    lines += [f"{field} = {toml_list(words)}" for field, words in lists.items() if words]
    if slot.settings:
        inner = ", ".join(f"{toml_text(k)} = {v:g}" for k, v in slot.settings.items())
        lines.append(f"settings = {{ {inner} }}")
    return lines


def assigned_text(assigned: tuple[Assigned, ...]) -> str:
    """What was said of slots, as it is written at the end of a chart; empty for nothing."""
    said = [one for one in assigned if one.cards or one.refused]
    lines = ["", FROM_HERE] if said else []
    for one in said:
        lines += ["", "[[assigned]]", f"slot = {toml_text(one.slot)}"]
        lines.append(f"character = {toml_text(one.character)}")
        if one.cards:
            lines.append(f"cards = {toml_list(one.cards)}")
        if one.refused:
            lines.append(f"refused = {toml_list(one.refused)}")
    return "\n".join(lines) + "\n" if lines else ""


def with_assigned(file: ChartFile, assigned: tuple[Assigned, ...]) -> str:
    """A chart's text with something else said of its slots; what people wrote above that, stays as
    they wrote it."""
    above, mark, _ = file.text.partition(FROM_HERE)
    if not mark and file.chart.assigned:  # somebody wrote them by hand
        return chart_text(msgspec.structs.replace(file.chart, assigned=assigned))
    return above.rstrip("\n") + "\n" + assigned_text(assigned)


def write_chart(path: Path, text: str) -> None:
    """Write a chart's text.

    Raises:
        FoxHandError: ``file.write``; ``chart.damaged`` where it could not be read again.
    """
    try:
        chart_of(decode_toml(text), path)
    except ValueError as error:
        raise _damaged(path, wrong_with(error)) from error
    make_folder(path.parent)
    write_atomically(path, text.encode())
