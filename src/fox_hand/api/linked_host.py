"""An animation program that runs beside a script: its rigs, its selection, and values onto it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

if TYPE_CHECKING:
    from fox_hand.api.stance import Stance
    from fox_hand.interchange.link import Connection


@dataclass(frozen=True)
class HostedRig:
    """A control rig of the program's scene.

    Args:
        identity: the program's own id of it.
        name, prefix: as it calls it.
    """

    identity: str
    name: str
    prefix: str


class LinkedHost:
    """The link to a program, see ``docs/format/link.md``. Use it with ``with``, or close it."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._known: dict[str, tuple[Any, float]] = {}  # rigs by id, and metres of their units

    @staticmethod
    def open(path: Path | str | None = None) -> LinkedHost:
        """Link to a program.

        Args:
            path: its socket; None for the program that was started last.

        Raises:
            FoxHandError: ``link.lost`` if none answers; ``link.refused`` if it says no.
        """
        from fox_hand.interchange.link import Connection, hosts

        found = [Path(path)] if path is not None else hosts()
        if not found:
            raise FoxHandError("link.lost", tr("No program listens"))
        return LinkedHost(Connection(found[0]))

    def __enter__(self) -> LinkedHost:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """Hang up; what is shown there is put back."""
        self._connection.close()

    @property
    def name(self) -> str:
        return self._connection.host.name

    @property
    def scene(self) -> str:
        """What is open there."""
        return self._connection.host.scene

    def rigs(self) -> list[HostedRig]:
        """All of the scene."""
        return [
            HostedRig(str(r["id"]), str(r.get("name", "")), str(r.get("prefix", "")))
            for r in self._connection.ask("rigs")["rigs"]
        ]

    def selected(self) -> tuple[HostedRig, list[str]]:
        """The rig of which something is selected there, and the selected controls.

        Raises:
            FoxHandError: ``api.nothing_selected``.
        """
        for rig in self.rigs():
            controls = self._connection.ask("selection", {"rig": rig.identity})["controls"]
            if controls:
                return rig, list(controls)
        raise FoxHandError("api.nothing_selected", tr("Nothing is selected there."))

    def stance(self, rig: HostedRig) -> Stance:
        """How a rig stands there now.

        Raises:
            FoxHandError: if it cannot be described.
        """
        from fox_hand.api.rig import Rig
        from fox_hand.api.stance import Stance
        from fox_hand.session.link.own_terms import state_from

        core, unit = self._described(rig)
        values = self._connection.ask("values", {"rig": rig.identity})["values"]
        return Stance(Rig(core, Path(rig.name)), state_from(core, values, unit))

    def show(self, rig: HostedRig, stance: Stance) -> None:
        """Show a stance there, in no undo step; it ends with :meth:`keep`, :meth:`put_back`, or the
        link.

        Raises:
            FoxHandError: ``link.refused`` with what the program says against it.
        """
        self._write("show", rig, stance, {})

    def put_back(self, rig: HostedRig) -> None:
        """End what is shown."""
        self._connection.ask("put_back", {"rig": rig.identity})

    def keep(
        self, rig: HostedRig, stance: Stance, name: str, *, keyed: bool = True, layer: str = ""
    ) -> list[tuple[str, str, str]]:
        """Set what a stance has otherwise than the scene, as one undo step there.

        Args:
            name: of the step.
            keyed: with keys at the frame in sight.
            layer: whose keys; empty for the program's usual one.

        Returns:
            control, channel and why of what it refused.

        Raises:
            FoxHandError: ``link.refused``; nothing is written then.
        """
        more = {"name": name, "keyed": keyed, "layer": layer or None}
        refused = self._write("keep", rig, stance, more).get("refused") or []
        return [(r["control"], r["channel"], r.get("why", "")) for r in refused]

    def _write(
        self, method: str, rig: HostedRig, stance: Stance, more: dict[str, Any]
    ) -> dict[str, Any]:
        from fox_hand.session.link.own_terms import changed_values, state_from, values_from

        core, unit = self._described(rig)
        there = self._connection.ask("values", {"rig": rig.identity})
        before = values_from(core, state_from(core, there["values"], unit), unit)
        values = changed_values(before, values_from(core, stance.state, unit))
        asked = {"rig": rig.identity, "revision": there["revision"], "values": values, **more}
        return dict(self._connection.ask(method, asked))

    def _described(self, rig: HostedRig) -> tuple[Any, float]:
        import msgspec

        from fox_hand.interchange.described import rig_of
        from fox_hand.interchange.sidecar import Sidecar

        if rig.identity not in self._known:
            said = self._connection.ask("describe", {"rig": rig.identity})["rig"]
            try:
                sidecar = msgspec.convert(said, Sidecar)
            except msgspec.ValidationError as error:
                raise FoxHandError("link.description", str(error)) from error
            name = rig.prefix.rstrip(":|") or rig.name
            made = rig_of(sidecar, name, Path(rig.name))
            self._known[rig.identity] = made, sidecar.metres_per_unit or 1.0
        return self._known[rig.identity]
