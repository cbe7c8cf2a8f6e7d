"""Which controls are selected."""

from __future__ import annotations

from collections.abc import Iterable

from psygnal import Signal

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.rig.rig import Rig
from fox_hand.session.figures.figure import Figure


class Selection:
    """Control rows in the order they were picked."""

    changed = Signal()

    def __init__(self) -> None:
        self._rows: tuple[int, ...] = ()

    @property
    def rows(self) -> tuple[int, ...]:
        return self._rows

    def __contains__(self, row: int) -> bool:
        return row in self._rows

    def __len__(self) -> int:
        return len(self._rows)

    def set(self, rows: Iterable[int]) -> None:
        """Select exactly these."""
        new = tuple(dict.fromkeys(rows))
        if new != self._rows:
            self._rows = new
            self.changed.emit()

    def add(self, rows: Iterable[int]) -> None:
        self.set((*self._rows, *rows))

    def toggle(self, rows: Iterable[int]) -> None:
        """Add what is not selected; if all of it is, take it away."""
        rows = list(rows)
        if all(r in self._rows for r in rows):
            self.set(r for r in self._rows if r not in rows)
        else:
            self.add(rows)

    def clear(self) -> None:
        self.set(())


def region_rows(figure: Figure, region: Region, side: Side | None = None) -> list[int]:
    """Rows of the controls of a region, of one side or of all, that are listed now."""
    listed = figure.listed
    return [
        row
        for row, control in enumerate(figure.rig.controls)
        if control.region is region and row in listed and (side is None or control.side is side)
    ]


def other_side(rig: Rig, rows: Iterable[int]) -> list[int]:
    """The partners of some controls; what has none, or is its own, stays."""
    found = []
    for row in rows:
        partner = rig.controls[row].partner
        found.append(rig.control_row.get(partner, row) if partner is not None else row)
    return found


def both_sides(rig: Rig, rows: Iterable[int]) -> list[int]:
    """Controls together with their partners; the given ones come last, so that the one with the
    dial stays the same."""
    rows = list(rows)
    return list(dict.fromkeys([*(r for r in other_side(rig, rows) if r not in rows), *rows]))
