"""What somebody who helps needs to know of a machine, as text to copy."""

from __future__ import annotations

import os
import platform
from collections.abc import Mapping
from importlib import metadata
from pathlib import Path

from fox_hand import __version__
from fox_hand.base.system.log import LogFiles, interpreter

PACKAGES = (
    "PySide6_Essentials",
    "numpy",
    "scipy",
    "moderngl",
    "msgspec",
    "pillow",
    "usd-core",
)


def version_of(package: str) -> str:
    """Which version of a package is installed; empty if none is."""
    try:
        return metadata.version(package)
    except metadata.PackageNotFoundError:
        return ""


def facts(more: Mapping[str, str]) -> dict[str, str]:
    """What runs here.

    Args:
        more: what only the window knows, such as the driver that draws.
    """
    found = {
        "Fox Hand": __version__,
        "Interpreter": interpreter(),
        "System": f"{_system()}, {platform.machine()}, {os.cpu_count()} processors",
    }
    versions = {name: version_of(name) for name in PACKAGES}
    found["Packages"] = ", ".join(f"{n} {v}" for n, v in versions.items() if v)
    return {**found, **{key: value for key, value in more.items() if value}}


def _system() -> str:
    try:
        lines = Path("/etc/os-release").read_text("utf-8", "replace").splitlines()
    except OSError:
        return platform.system()
    name = next((x.partition("=")[2].strip('"') for x in lines if x.startswith("PRETTY_NAME=")), "")
    return name or platform.system()


def details(more: Mapping[str, str], files: LogFiles | None) -> str:
    """Facts and the end of the log, to be copied and sent."""
    lines = [f"{key}: {value}" for key, value in facts(more).items()]
    tail = files.tail() if files is not None else ""
    return "\n".join([*lines, "", tail]).rstrip() + "\n"


def licences() -> list[tuple[str, str, str]]:
    """Packages that are installed beside Fox Hand: name, version, licence; by name."""
    found: dict[str, tuple[str, str, str]] = {}
    for package in metadata.distributions():
        name = _said(package, "Name")
        licence = _said(package, "License-Expression") or _classified(
            package.metadata.get_all("Classifier") or []
        )
        words = licence or _said(package, "License").partition("\n")[0]
        found[name.lower()] = (name, package.version, words[:60] or "see its own files")
    return [found[key] for key in sorted(found) if key and key != "fox-hand"]


def _said(package: metadata.Distribution, field: str) -> str:
    """A field of a package's description; empty where it has none."""
    return str((package.metadata.get_all(field) or [""])[0])


def _classified(classifiers: list[str]) -> str:
    names = [c.rpartition(" :: ")[2] for c in classifiers if c.startswith("License :: ")]
    return ", ".join(names)
