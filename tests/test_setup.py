"""What ./fox-hand says on a machine where something is missing."""

from __future__ import annotations

import os
import shutil
import subprocess
import sysconfig
from pathlib import Path

import pytest

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


def test_as_root_they_are_installed(tmp_path: Path) -> None:
    calls = tmp_path / "calls"
    said = shell(
        "id() { echo 0; }; has_library() { false; }; has_software_gl() { true; }; "
        f'apt-get() {{ echo "apt-get $*" >>{calls}; }}; ensure_system window screen'
    )
    assert said.returncode == 0
    install = next(line for line in calls.read_text().splitlines() if " install " in line)
    for package in (
        "libegl1",
        "libgl1",
        "libxcb-cursor0",
        "libxkbcommon-x11-0",
        "libwayland-cursor0",
    ):
        assert f" {package}" in install


def test_another_program_that_installs_is_waited_for(tmp_path: Path) -> None:
    tries = tmp_path / "tries"
    script = (
        "id() { echo 0; }; lock_pause=0; "
        f'apt-get() {{ echo x >>{tries}; [ "$(wc -l <{tries})" -gt 3 ] || '
        '{ echo "E: Could not get lock /var/lib/dpkg/lock-frontend." >&2; return 100; }; }; '
    )
    said = shell(script + "install_or_name xauth")
    assert said.returncode == 0
    assert said.stderr.count("waiting for it") == 1
    assert len(tries.read_text().split()) == 5  # three refused, the list, the package
    tries.unlink()
    given_up = shell(script + "lock_tries=2; install_or_name xauth")
    assert given_up.returncode == 1
    assert "Could not get lock" in given_up.stderr


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


def test_a_python_of_another_age_gets_one_true_sentence(tmp_path: Path) -> None:
    old = tmp_path / "python3"
    old.write_text('#!/bin/sh\ncase "$2" in *platform*) echo 3.9.2 ;; *) exit 1 ;; esac\n')
    old.chmod(0o755)
    said = shell(f"PATH={tmp_path}:/usr/bin:/bin; find_python() {{ false; }}; ensure_python")
    assert said.returncode == 1
    assert len(said.stderr.splitlines()) == 1
    assert "3.9.2" in said.stderr
    assert "PYTHON=" in said.stderr
    assert "apt-get" not in said.stderr


def environment(folder: Path) -> str:
    """An environment that looks whole, and a pip that only notes what it was asked."""
    (folder / "bin").mkdir(parents=True)
    python = folder / "bin" / "python"
    python.write_text(f'#!/bin/sh\ncase "$*" in *pip*) echo "$*" >>{folder}/asked ;; esac\n')
    python.chmod(0o755)
    for name in ("numpy", "scipy"):
        record = folder / "lib" / "python3.11" / "site-packages" / f"{name}-1.dist-info" / "RECORD"
        record.parent.mkdir(parents=True)
        record.touch()
    return f"env_dir={folder}; ensure_environment requirements.lock"


def test_an_environment_is_made_once_and_half_of_one_is_noticed(tmp_path: Path) -> None:
    script, asked = environment(tmp_path / "env"), tmp_path / "env" / "asked"
    first, second = shell(script), shell(script)
    assert (first.returncode, second.returncode) == (0, 0)
    assert "MB are fetched" in first.stderr
    assert second.stderr == ""
    assert len(asked.read_text().splitlines()) == 1
    shutil.rmtree(next((tmp_path / "env").rglob("scipy-1.dist-info")))
    assert "some packages have gone" in shell(script).stderr
    assert "--force-reinstall" in asked.read_text().splitlines()[1]


def test_an_environment_whose_python_has_gone_is_made_anew(tmp_path: Path) -> None:
    script = environment(tmp_path / "env")
    shell(script)
    python = tmp_path / "env" / "bin" / "python"
    python.unlink()
    python.symlink_to("/usr/bin/python3.of-the-last-release")
    said = shell("make_environment() { say made; false; }; " + script)
    assert "has gone or changed; it is made anew" in said.stderr
    assert said.stderr.splitlines()[-1] == "fox-hand: made"
    assert not (tmp_path / "env").exists()


@pytest.mark.parametrize(
    ("words", "reason"),
    [
        ("Temporary failure in name resolution", "the package index cannot be reached"),
        ("OSError: [Errno 28] No space left on device", "there is no room left"),
        ("THESE PACKAGES DO NOT MATCH THE HASHES", "its checksum differs"),
    ],
)
def test_why_packages_did_not_come_is_said_and_it_is_tried_again(
    tmp_path: Path, words: str, reason: str
) -> None:
    script = environment(tmp_path / "env")
    python = tmp_path / "env" / "bin" / "python"
    python.write_text(f'#!/bin/sh\ncase "$*" in *pip*) echo "{words}"; exit 1 ;; esac\n')
    for _ in range(2):
        said = shell(script)
        assert said.returncode == 1
        assert reason in said.stderr.splitlines()[-1]


def test_where_nothing_can_be_written_another_place_can_be_named(tmp_path: Path) -> None:
    (tmp_path / "a file").touch()
    said = shell(f'env_dir="{tmp_path}/a file/env"; make_environment')
    assert said.returncode == 1
    assert "FOX_HAND_ENV=" in said.stderr.splitlines()[-1]


def clone(folder: Path) -> Path:
    """What the starter needs of a clone, elsewhere."""
    for name in ("fox-hand", "scripts", "src", "requirements.lock"):
        source = ROOT / name
        copy = shutil.copytree if source.is_dir() else shutil.copy
        folder.mkdir(parents=True, exist_ok=True)
        copy(source, folder / name)
    return folder


def test_a_clone_that_was_moved_runs_its_own_code(tmp_path: Path) -> None:
    moved = clone(tmp_path / "Füchse am Ufer")
    mark = moved / "src" / "fox_hand" / "__init__.py"
    mark.write_text(mark.read_text().replace("0.1.0", "0.1.0-moved"))
    site = Path(sysconfig.get_path("purelib"))
    (moved / ".venv").symlink_to(site.parents[2])
    (moved / "requirements.lock").unlink()
    (moved / "requirements.lock").symlink_to(ROOT / "requirements.lock")
    (tmp_path / "typer.py").write_text("raise SystemExit('the code of a received folder')")
    for locale in ("POSIX", "C.UTF-8"):
        said = subprocess.run(
            [moved / "fox-hand", "--version"],
            env={"PATH": os.environ["PATH"], "LC_ALL": locale, "PYTHONPATH": str(tmp_path)},
            cwd=tmp_path,
            capture_output=True,
            text=True,
            check=False,
        )
        assert said.stdout.strip() == "Fox Hand 0.1.0-moved", said.stderr


def test_without_a_screen_it_says_so_and_stops() -> None:
    for words in ((), ("demo",), ("open", "hero.glb")):
        said = subprocess.run(
            [ROOT / "fox-hand", *words],
            env={"PATH": os.environ["PATH"], "HOME": "/nonexistent"},
            capture_output=True,
            text=True,
            check=False,
        )
        assert said.returncode == 1
        assert "no screen" in said.stderr
        assert len(said.stderr.splitlines()) == 1
