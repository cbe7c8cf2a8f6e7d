"""The desktop knows the program and its files, and forgets them again."""

from __future__ import annotations

import configparser
import os
import shutil
import subprocess
import sys
import xml.etree.ElementTree as ET
import zipfile
from pathlib import Path

import pytest
from PIL import Image
from typer._completion_shared import get_completion_script

from fox_hand.base.system.desktop_files import SHELLS, files_for, quoted
from fox_hand.base.system.desktop_install import install, remove
from fox_hand.base.system.man_page import man_page
from fox_hand.demo.demo_project import shipped
from fox_hand.library.store.pack import MIMETYPE as PACK

ROOT = Path(__file__).parents[1]
WAVE = shipped() / "library" / "Marrow" / "Body" / "Wave.foxcard"


def run(*words: str | Path, home: Path) -> subprocess.CompletedProcess[str]:
    env = {k: v for k, v in os.environ.items() if not k.startswith("XDG_")} | {"HOME": str(home)}
    return subprocess.run(
        [sys.executable, "-m", "fox_hand", *map(str, words)],
        env={**env, "PYTHONPATH": str(ROOT / "src")},
        capture_output=True,
        text=True,
        check=False,
    )


def test_what_is_installed_is_removed_and_nothing_else(tmp_path: Path) -> None:
    share = tmp_path / ".local" / "share"
    foreign = share / "thumbnailers" / "fox-hand.thumbnailer"
    foreign.parent.mkdir(parents=True)
    foreign.write_text("somebody else's")
    done = run("desktop", "install", home=tmp_path)
    assert done.returncode == 0, done.stderr
    assert str(foreign) in done.stderr
    entry = share / "applications" / "fox-hand.desktop"
    assert entry.is_file()
    assert run("desktop", "install", home=tmp_path).returncode == 0  # twice is once
    icon = share / "icons" / "hicolor" / "48x48" / "apps" / "fox-hand.png"
    assert Image.open(icon).size == (48, 48)
    changed = share / "man" / "man1" / "fox-hand.1"
    changed.write_text("changed")
    gone = run("desktop", "remove", home=tmp_path)
    assert gone.returncode == 0, gone.stderr
    left = {p for p in share.rglob("*") if p.is_file() and "mime" not in p.parts}
    assert left - {share / "applications" / "mimeinfo.cache"} == {foreign, changed}
    assert foreign.read_text() == "somebody else's"


def test_the_entry_and_the_kinds_of_files_say_the_same(tmp_path: Path) -> None:
    files = files_for("/opt/my programs/fox-hand")
    entry = configparser.RawConfigParser()
    entry.optionxform = str  # type: ignore[assignment,method-assign]  # keys keep their letters
    entry.read_string(files["applications/fox-hand.desktop"].decode())
    named = set(entry["Desktop Entry"]["MimeType"].strip(";").split(";"))
    tree = ET.fromstring(files["mime/packages/fox-hand.xml"])
    space = "{http://www.freedesktop.org/standards/shared-mime-info}"
    kinds = {one.attrib["type"] for one in tree.iter(f"{space}mime-type")}
    assert named == kinds
    globs = {one.attrib["pattern"] for one in tree.iter(f"{space}glob")}
    assert globs == {"*.foxcard", "*.foxpack", "*.foxshot", "*.foxchart.toml"}
    assert entry["Desktop Entry"]["Exec"] == '"/opt/my programs/fox-hand" open %f'
    assert quoted("/usr/bin/fox-hand") == "/usr/bin/fox-hand"
    assert quoted('/a"b $c/50%') == '"/a\\\\"b \\\\$c/50%%"'
    with zipfile.ZipFile(WAVE) as card:
        first = card.infolist()[0]
        assert first.header_offset == 0
        magic = f"{first.filename}{card.read(first).decode()}"
    values = {one.attrib["value"] for one in tree.iter(f"{space}match")}
    assert magic in values
    assert f"mimetype{PACK.decode()}" in values
    share = tmp_path / "share"
    install(share, tmp_path / "state", files)
    for tool, words in (
        ("desktop-file-validate", [share / "applications" / "fox-hand.desktop"]),
        ("appstreamcli", ["validate", "--no-net", *(share / "metainfo").glob("*.xml")]),
    ):
        if shutil.which(tool):
            said = subprocess.run([tool, *words], capture_output=True, text=True, check=False)
            assert said.returncode == 0, said.stdout + said.stderr
    remove(share, tmp_path / "state")


def test_catalogues_of_programs_are_told_of_pictures_where_a_site_has_them(tmp_path: Path) -> None:
    """AppStream takes web addresses alone, so there is nothing to tell before there is one."""
    place = "metainfo/io.foxhand.FoxHand.metainfo.xml"
    assert b"screenshot" not in files_for("fox-hand")[place]
    data = files_for("fox-hand", "https://fox-hand.example/?a&b/")[place]
    images = [one.text for one in ET.fromstring(data).iter("image")]
    assert images[0] == "https://fox-hand.example/?a&b/screenshots/main.png"
    shown = ROOT / "docs" / "screenshots"
    assert all((shown / Path(image).name).is_file() for image in images)
    page = tmp_path / "io.foxhand.FoxHand.metainfo.xml"
    page.write_bytes(files_for("fox-hand", "https://fox-hand.example")[place])
    if shutil.which("appstreamcli"):
        words = ["appstreamcli", "validate", "--no-net", str(page)]
        said = subprocess.run(words, capture_output=True, text=True, check=False)
        assert said.returncode == 0, said.stdout + said.stderr


def test_a_card_and_a_pack_have_a_small_picture(tmp_path: Path) -> None:
    picture = tmp_path / "small.png"
    done = run("thumbnail", WAVE, picture, "--size", "96", home=tmp_path)
    assert done.returncode == 0, done.stderr
    assert Image.open(picture).size == (96, 96)
    pack = tmp_path / "two.foxpack"
    with zipfile.ZipFile(pack, "w") as whole:
        whole.writestr("mimetype", PACK)
        whole.write(WAVE, "cards/a.foxcard")
    assert run("thumbnail", pack, tmp_path / "p.png", home=tmp_path).returncode == 0
    for name, content in (("bad.foxcard", b"PK"), ("bad.foxpack", b""), ("x.txt", b"x")):
        (tmp_path / name).write_bytes(content)
        said = run("thumbnail", tmp_path / name, tmp_path / "no.png", home=tmp_path)
        assert said.returncode == 1
        assert said.stderr.count("\n") == 1  # a sentence
        assert not (tmp_path / "no.png").exists()


@pytest.mark.skipif(shutil.which("man") is None, reason="man is not there")
def test_the_manual_page_is_one_and_shells_complete(tmp_path: Path) -> None:
    page = tmp_path / "fox-hand.1"
    page.write_text(man_page())
    said = subprocess.run(
        ["man", "--warnings", "-l", str(page)], capture_output=True, text=True, check=False
    )
    assert "fox-hand desktop install" in said.stdout
    assert not said.stderr
    files = files_for("fox-hand")
    for shell, place in SHELLS.items():  # as the library of the command line writes them now
        made = get_completion_script(
            prog_name="fox-hand", complete_var="_FOX_HAND_COMPLETE", shell=shell
        )
        assert files[place].decode().strip() == made.strip()
    script = tmp_path / "fox-hand.bash"
    script.write_bytes(files[SHELLS["bash"]])
    assert subprocess.run(["bash", "-n", str(script)], check=False).returncode == 0
