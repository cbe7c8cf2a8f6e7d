"""Rights within a library that contradict those of its folder are found, counted, and mended by the
command that is named."""

from __future__ import annotations

import grp
import os
import stat
import subprocess
from pathlib import Path

import pytest

from fox_hand.library.files.access import contradiction

READ = "not everybody may read it who may read the library's folder"
WRITE = "not everybody may write in it who may write in the library's folder"


@pytest.fixture
def library(tmp_path: Path) -> Path:
    folder = tmp_path / "a library"
    sheet = folder / "Body"
    sheet.mkdir(parents=True)
    for name in ("Wave", "Bow"):
        (sheet / f"{name}.foxcard").write_bytes(b"PK")
        (sheet / f"{name}.foxcard").chmod(0o664)
    sheet.chmod(0o2775)
    folder.chmod(0o2775)
    return folder


def test_a_library_whose_parts_may_be_used_like_its_folder_has_none(library: Path) -> None:
    assert contradiction(library) is None
    card = library / "Body" / "Wave.foxcard"
    card.chmod(0o444)  # files are replaced, never written into
    assert contradiction(library) is None
    (library / "Body" / ".half.part").touch(0o600)
    (library / "Body" / "link").symlink_to("/nowhere")
    assert contradiction(library) is None
    assert contradiction(library / "gone") is None


@pytest.mark.parametrize(
    ("name", "mode", "why"),
    [
        ("Body/Wave.foxcard", 0o640, READ),
        ("Body/Wave.foxcard", 0o604, READ),
        ("Body", 0o2755, WRITE),
        ("Body", 0o2770, READ),
    ],
)
def test_what_somebody_cannot_use_is_named_and_the_command_mends_it(
    library: Path, name: str, mode: int, why: str
) -> None:
    (library / name).chmod(mode)
    found = contradiction(library)
    assert found is not None
    assert (found.path, found.count, found.why) == (library / name, 1, why)
    group = grp.getgrgid(library.stat().st_gid).gr_name
    assert found.mend.startswith(f"chgrp -R {group} '{library}' && chmod -R g=rwX,o=rX '{library}'")
    assert "-type d -exec chmod g+s" in found.mend
    subprocess.run(found.mend, shell=True, check=True)
    assert contradiction(library) is None
    assert (library / "Body").stat().st_mode & stat.S_ISGID


def test_all_are_counted_and_the_first_is_named_with_its_own_reason(library: Path) -> None:
    (library / "Body").chmod(0o2755)
    for name in ("Wave", "Bow"):
        (library / "Body" / f"{name}.foxcard").chmod(0o600)
    found = contradiction(library)
    assert found is not None
    assert (found.count, found.path, found.why) == (3, library / "Body", WRITE)


def test_a_library_for_reading_asks_for_no_more(library: Path) -> None:
    library.chmod(0o755)
    (library / "Body").chmod(0o755)
    assert contradiction(library) is None
    (library / "Body" / "Bow.foxcard").chmod(0o600)
    found = contradiction(library)
    assert found is not None and "chmod -R g=rX,o=rX" in found.mend
    assert "g+s" not in found.mend


@pytest.mark.skipif(os.geteuid() != 0, reason="only root may give files to other groups")
def test_another_group_counts_where_others_may_do_less(library: Path) -> None:
    card = library / "Body" / "Wave.foxcard"
    os.chown(card, -1, library.stat().st_gid + 1)
    assert contradiction(library) is None  # everybody may read it
    library.chmod(0o2770)
    (library / "Body").chmod(0o2770)
    card.chmod(0o660)
    found = contradiction(library)
    assert found is not None
    assert found.why == "it belongs to another group than the library's folder"
