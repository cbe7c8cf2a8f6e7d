"""What is built of the project holds all of it, and works where only that was installed."""

from __future__ import annotations

import os
import subprocess
import sys
import sysconfig
import tarfile
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from fox_hand.base.system.desktop_files import files_for

ROOT = Path(__file__).parents[1]
TOP = ("pyproject.toml", "setup.py", "MANIFEST.in", "README.md", "LICENSE")
NEWS = {"CHANGELOG.md", "CHANGELOG.de.md"}
DRAW = """
import sys
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Standing, View
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.render.renderer import Renderer
rig = read_rig(shipped() / "cast" / "pim.glb")
at = rig.evaluate(rig.rest)
renderer = Renderer()
camera = Camera().framing(rig.flesh(at), 1.0)
print(renderer.picture(View((Standing(rig, at),), camera, 64, 64)).pixels.std() > 10)
renderer.stop()
"""


MANUAL = """
from fox_hand.base.manual import manual_folder, pages
found = {page.name: page for page in pages(manual_folder())}
print("site-packages" in str(manual_folder()), {"3-pose", "news"} <= found.keys())
"""


def tracked(*below: str) -> list[str]:
    """The files that are kept, where this is a clone; else those that lie there."""
    if (ROOT / ".git").exists():
        said = subprocess.run(
            ["git", "-c", f"safe.directory={ROOT}", "-C", str(ROOT), "ls-files", "-z", *below],
            capture_output=True,
            check=True,
        )
        names = [os.fsdecode(name) for name in said.stdout.split(b"\0") if name]
    else:
        files = [f for part in below for f in (ROOT / part).rglob("*") if f.is_file()]
        names = [str(f.relative_to(ROOT)) for f in files if "__pycache__" not in f.parts]
    return [name for name in names if (ROOT / name).is_file()]


@pytest.fixture(scope="module")
def built(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with the source package, and a wheel that was built from it alone."""
    made = tmp_path_factory.mktemp("built")
    source, out = made / "source", made / "out"
    for name in tracked("src", "docs", *TOP, *NEWS):
        (source / name).parent.mkdir(parents=True, exist_ok=True)
        (source / name).write_bytes((ROOT / name).read_bytes())
    out.mkdir()
    build("sdist", source, out)
    with tarfile.open(next(out.glob("*.tar.gz"))) as archive:
        if hasattr(tarfile, "data_filter"):  # from Python 3.11.4 on; our own package either way
            archive.extraction_filter = tarfile.data_filter
        archive.extractall(made / "unpacked")
    build("wheel", next((made / "unpacked").iterdir()), out)
    return out


def build(kind: str, source: Path, out: Path) -> None:
    code = f"from setuptools.build_meta import build_{kind}; build_{kind}({str(out)!r})"
    done = subprocess.run(
        [sys.executable, "-c", code], cwd=source, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]


def test_the_wheel_holds_every_file_that_is_kept(built: Path) -> None:
    with zipfile.ZipFile(next(built.glob("*.whl"))) as wheel:
        held = {name for name in wheel.namelist() if ".dist-info/" not in name}
    manual = {name for name in held if name.startswith("fox_hand/manual/")}
    told = {name for name in held if ".data/data/share/" in name}
    assert held - manual - told == {name.removeprefix("src/") for name in tracked("src")}
    assert {name.partition("/share/")[2] for name in told} == set(files_for("fox-hand"))
    pages = {Path(name).name for name in tracked("docs/manual", "docs/screenshots")}
    assert {Path(name).name for name in manual} == pages | NEWS


def test_a_picture_is_drawn_where_only_the_wheel_is_installed(built: Path, tmp_path: Path) -> None:
    fresh = tmp_path / "fresh"
    subprocess.run([sys.executable, "-m", "venv", "--without-pip", str(fresh)], check=True)
    python = fresh / "bin" / "python"
    install = [sys.executable, "-m", "pip", "--python", str(python), "install", "--no-deps"]
    wheel = next(built.glob("*.whl"))
    subprocess.run([*install, "--no-index", "-q", str(wheel)], check=True)
    # the packages it needs are this environment's; Fox Hand itself is not among them
    site = next((fresh / "lib").glob("python*/site-packages"))
    (site / "needed.pth").write_text(sysconfig.get_path("purelib") + "\n")
    alone = {"HOME": str(tmp_path), "PATH": os.environ["PATH"]}

    def run(*words: str | Path) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [str(w) for w in words],
            cwd=tmp_path,
            env=alone,
            capture_output=True,
            text=True,
            check=False,
        )

    drawn = run(python, "-c", DRAW)
    assert drawn.stdout.strip() == "True", drawn.stderr
    rig = site / "fox_hand" / "demo" / "night_ferry" / "cast" / "quill.glb"
    picture = tmp_path / "quill.png"
    done = run(fresh / "bin" / "fox-hand", "render", rig, "-o", picture, "--size", "96x96")
    assert done.returncode == 0, done.stderr
    assert np.asarray(Image.open(picture)).std() > 10
    said = run(python, "-c", MANUAL)
    assert said.stdout.split() == ["True", "True"], said.stderr
    assert (site / "fox_hand" / "demo" / "night_ferry" / "performance" / "on_deck.bvh").is_file()
