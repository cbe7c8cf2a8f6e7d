"""What a library grants is found from any folder in it."""

from __future__ import annotations

from pathlib import Path

from fox_hand.library.files.access import access_of, access_to
from fox_hand.library.store.store import Library


def test_a_sheet_in_a_sheet_has_what_its_library_grants(tmp_path: Path) -> None:
    library = Library.create(tmp_path / "lib", "Lib")
    inner = library.sheet_folder("A/B/C")
    library.folder.chmod(0o2775)
    inner.chmod(0o700)
    found = access_of(inner)
    assert found == access_to(library.folder) and found is not None
    assert found.mode == 0o2775 and found.of_files == 0o664
    assert access_of(tmp_path) is None
