"""What ./fox-hand says on a machine where something is missing."""

from __future__ import annotations

import subprocess
from pathlib import Path

ROOT = Path(__file__).parents[1]


def shell(script: str) -> subprocess.CompletedProcess[str]:
    head = f'root="{ROOT}"; . "$root/scripts/environment.sh"; '
    return subprocess.run(
        ["bash", "-uc", head + script], capture_output=True, text=True, check=False
    )


def test_without_rights_missing_libraries_are_named_in_one_line_to_copy() -> None:
    said = shell(
        'id() { echo 1000; }; has_library() { [ "$1" != libEGL.so.1 ]; }; '
        "has_software_gl() { false; }; ensure_system"
    )
    assert said.returncode == 1
    lines = [line.strip() for line in said.stderr.splitlines() if "apt-get install" in line]
    assert lines == ["sudo apt-get update && sudo apt-get install -y libegl1 libgl1-mesa-dri"]


def test_as_root_they_are_installed() -> None:
    said = shell(
        "id() { echo 0; }; has_library() { false; }; has_software_gl() { true; }; "
        'apt-get() { echo "apt-get $*" >&2; }; ensure_system window screen'
    )
    assert said.returncode == 0
    install = next(
        line for line in said.stderr.splitlines() if " install " in line and "apt" in line
    )
    for package in ("libegl1", "libgl1", "libxcb-cursor0", "libxkbcommon-x11-0"):
        assert f" {package}" in install


def test_nothing_is_said_where_all_is_there() -> None:
    said = shell("has_library() { true; }; has_software_gl() { true; }; ensure_system window")
    assert (said.returncode, said.stdout, said.stderr) == (0, "", "")


def test_one_place_with_a_driver_is_enough(tmp_path: Path) -> None:
    (tmp_path / "dri").mkdir()
    patterns = f"gl_drivers='{tmp_path}/none/*.so {tmp_path}/dri/*_dri.so'; "
    assert shell(patterns + "has_software_gl").returncode == 1
    (tmp_path / "dri" / "swrast_dri.so").touch()
    assert shell(patterns + "has_software_gl").returncode == 0


def test_an_old_python_is_not_taken() -> None:
    said = shell(
        'python3() { return 1; }; PYTHON=/bin/false; command() { [ "$2" = /bin/false ]; }; '
        "find_python >/dev/null; echo $?"
    )
    assert said.stdout.strip() == "1"
