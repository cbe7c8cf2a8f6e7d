"""The rooms and the one direction of imports."""

from __future__ import annotations

import ast
import pkgutil
import re
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

import fox_hand

ROOT = Path(__file__).parents[1]

# contract, file that breaks it, line that is planted there
VIOLATIONS = [
    ("rooms", "core/maths/rotations.py", "import fox_hand.session.runtime.history"),
    ("qt-forbidden", "session/runtime/history.py", "import PySide6.QtCore"),
    ("gl-protected", "session/runtime/history.py", "import moderngl"),
    ("qt-protected", "demo/demo_project.py", "import PySide6.QtCore"),
    ("cycles", "core/maths/rotations.py", "import fox_hand.core.pose.pose"),
    ("database", "library/store/store.py", "import sqlite3"),
    ("workspace", "ui/stage/gestures.py", "import fox_hand.session.app.workspace"),
    ("ui-floors", "ui/theme/tokens.py", "import fox_hand.ui.main.menus"),
    ("session-floors", "session/runtime/jobs.py", "import fox_hand.session.app.workspace"),
    ("core-floors", "core/maths/euler.py", "import fox_hand.core.retarget.goals"),
    ("library-floors", "library/files/atomic.py", "import fox_hand.library.store.moves"),
    ("base-floors", "base/language.py", "import fox_hand.base.files.archive"),
    ("cli-floors", "cli/talk.py", "import fox_hand.cli.commands.demo"),
    ("widgets", "ui/widgets/flow.py", "import fox_hand.session.runtime.jobs"),
    ("ui-formats", "ui/main/menus.py", "import fox_hand.interchange.units"),
    ("formats", "interchange/bvh/document.py", "import fox_hand.interchange.gltf.document"),
]


def lint(folder: Path, contract: str) -> subprocess.CompletedProcess[str]:
    code = (
        "import sys; from importlinter.cli import lint_imports_command; "
        f"sys.argv = ['lint-imports', '--contract', '{contract}', '--no-cache']; "
        "lint_imports_command()"
    )
    return subprocess.run(
        [sys.executable, "-P", "-c", f"import sys; sys.path.insert(0, 'src'); {code}"],
        cwd=folder,
        capture_output=True,
        text=True,
        check=False,
    )


@pytest.mark.parametrize(("contract", "place", "line"), VIOLATIONS, ids=[v[0] for v in VIOLATIONS])
def test_every_contract_catches_a_planted_violation(
    tmp_path: Path, contract: str, place: str, line: str
) -> None:
    shutil.copytree(
        ROOT / "src",
        tmp_path / "src",
        ignore=shutil.ignore_patterns("night_ferry", "__pycache__", "*.ttf", "*.svg"),
    )
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    assert lint(tmp_path, contract).returncode == 0
    with (tmp_path / "src" / "fox_hand" / place).open("a") as file:
        file.write(f"\n{line}\n")
    broken = lint(tmp_path, contract)
    assert broken.returncode == 1, broken.stdout + broken.stderr
    assert "BROKEN" in broken.stdout


def test_everything_below_the_window_works_where_there_is_no_qt() -> None:
    """Import-linter cannot see importlib; this can."""
    names = [
        m.name
        for m in pkgutil.walk_packages(fox_hand.__path__, "fox_hand.")
        if not m.name.startswith("fox_hand.ui") and not m.name.endswith("__main__")
    ]
    assert len(names) > 40
    code = (
        "import sys, importlib\n"
        "sys.modules['PySide6'] = None\n"
        f"for name in {names!r}:\n    importlib.import_module(name)\n"
        "print('fine')"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert said.stdout.strip() == "fine", said.stderr


def test_starting_does_not_load_what_is_slow() -> None:
    """SciPy, contourpy and USD stay off the way to the first picture."""
    code = (
        "import sys\n"
        "import fox_hand.__main__, fox_hand.ui.main.window, fox_hand.interchange.readers\n"
        "print([m for m in ('scipy', 'contourpy', 'pxr', 'pygltflib') if m in sys.modules])"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == "[]"


def test_the_command_line_answers_without_a_window() -> None:
    def run(*words: str) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "fox_hand", *words]
        return subprocess.run(command, capture_output=True, text=True, check=False)

    assert run("--version").stdout.strip() == f"Fox Hand {fox_hand.__version__}"
    assert '"$schema"' in run("card-schema").stdout
    assert "Open something of your own" in run("--help").stdout
    wrong = run("dance")
    assert wrong.returncode == 2
    assert "No such command" in wrong.stderr


def test_lock_files_name_no_package_index() -> None:
    for path in ROOT.glob("requirements*.lock"):
        text = path.read_text()
        assert "://" not in text  # a package may be called after the protocol
        assert "index-url" not in text
        pinned = [line for line in text.splitlines() if "==" in line and not line.startswith(" ")]
        assert pinned
        assert text.count("--hash=sha256:") >= len(pinned)


def test_the_toolkits_picture_readers_are_never_given_a_device_of_ours() -> None:
    """Such a device needs the interpreter while the toolkit holds a lock: all stood still."""
    found = [
        path.name
        for path in (ROOT / "src" / "fox_hand" / "ui").rglob("*.py")
        if re.search(r"QBuffer|QIODevice|QImageWriter|fromData\(", path.read_text("utf-8"))
    ]
    assert found == []


def test_the_face_of_every_folder_lists_what_is_in_it() -> None:
    """Somebody new reads there where a thing is, so it must not be out of date."""
    src = ROOT / "src" / "fox_hand"
    wrong = []
    for room in ("base", "core", "session", "library", "api", "cli", "ui"):
        for face in (src / room).rglob("__init__.py"):
            said = ast.get_docstring(ast.parse(face.read_text("utf-8"))) or ""
            listed = dict(re.findall(r"^- ``(\w+)``: ([\w, \n]+?)(?=\n-|\Z)", said, re.MULTILINE))
            modules = {p.stem: p for p in face.parent.glob("*.py") if p != face}
            if not modules:
                continue
            if set(listed) != set(modules) or len(modules) > 18:
                wrong.append(f"{face.parent}: {sorted(set(listed) ^ set(modules))}, {len(modules)}")
            for stem, path in modules.items():
                named = {word for word in re.split(r"[,\s]+", listed.get(stem, "")) if word}
                if named != (_public(path) or {"constants"}):
                    wrong.append(f"{path}: {sorted(named ^ _public(path))}")
    assert wrong == []


def _public(path: Path) -> set[str]:
    kinds = (ast.ClassDef, ast.FunctionDef)
    body = ast.parse(path.read_text("utf-8")).body
    return {n.name for n in body if isinstance(n, kinds) and not n.name.startswith("_")}


def _size(node: ast.ClassDef) -> tuple[int, int]:
    """Methods, and attributes that are set on ``self``."""
    methods = sum(isinstance(x, ast.FunctionDef) for x in node.body)
    stored = [x for x in ast.walk(node) if isinstance(x, ast.Attribute)]
    own = {
        x.attr
        for x in stored
        if isinstance(x.ctx, ast.Store) and isinstance(x.value, ast.Name) and x.value.id == "self"
    }
    return methods, len(own)


def test_every_large_class_has_its_reason_written_down() -> None:
    decision = (ROOT / "docs" / "decisions" / "0024-window-of-parts.md").read_text("utf-8")
    reasons = {name for name, _ in re.findall(r"^\| (\w+) \| (.+) \|$", decision, re.MULTILINE)}
    large = set()
    for path in (ROOT / "src" / "fox_hand").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.ClassDef):
                methods, attributes = _size(node)
                if methods > 30 or attributes > 20:
                    large.add(node.name)
    assert reasons - {"Class"} == large


def test_keys_are_data_but_for_text_fields_and_a_drag() -> None:
    """Whoever looks for a key finds it in the table of commands or in a part's map of keys."""
    allowed = {"capture_form.py", "search_field.py", "channel_list.py", "number_field.py"}  # typing
    allowed |= {"stage_view.py"}  # Space, held while one drags
    allowed |= {"finder.py", "part_panel.py"}  # their fields
    allowed |= {"key_editor.py"}  # takes any key, to be kept as somebody's own
    found = {
        path.name
        for path in (ROOT / "src" / "fox_hand" / "ui").rglob("*.py")
        if "Key.Key_" in path.read_text("utf-8")
    }
    assert found <= allowed


def test_no_class_name_is_there_twice() -> None:
    """One name, one thing: whoever reads a name need not ask which of two is meant. What scripts
    see is called as what it stands for."""
    places: dict[str, list[str]] = {}
    for path in (ROOT / "src" / "fox_hand").rglob("*.py"):
        if path.parent.name == "api":
            continue
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.ClassDef):
                places.setdefault(node.name, []).append(path.name)
    assert {name: found for name, found in places.items() if len(found) > 1} == {}


def test_no_file_name_is_in_two_rooms() -> None:
    rooms: dict[str, set[str]] = {}
    src = ROOT / "src" / "fox_hand"
    for path in src.rglob("*.py"):
        if not path.name.startswith("__") and path.parent.name != "api":
            rooms.setdefault(path.name, set()).add(path.relative_to(src).parts[0])
    assert {name: found for name, found in rooms.items() if len(found) > 1} == {}


def test_core_says_the_shape_of_every_array_and_names_its_arguments() -> None:
    silent = []
    for path in (ROOT / "src" / "fox_hand" / "core").rglob("*.py"):
        for function in _public_functions(ast.parse(path.read_text("utf-8")).body):
            said = ast.get_docstring(function) or ""
            named = [*function.args.args, *function.args.kwonlyargs]
            kinds = [a.annotation for a in named] + [function.returns]
            arrays = " ".join(ast.unparse(kind) for kind in kinds if kind is not None)
            if re.search(r"\b(Array|Index|Rows|NDArray|Singles)\b", arrays) and "``(" not in said:
                silent.append(f"{path.name} {function.name}: no shape")
            if sum(a.arg not in ("self", "cls") for a in named) >= 3 and "Args:" not in said:
                silent.append(f"{path.name} {function.name}: no Args")
    assert silent == []


def _public_functions(body: list[ast.stmt]) -> Iterator[ast.FunctionDef]:
    for node in body:
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            yield from _public_functions(node.body)
        elif isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            yield node
