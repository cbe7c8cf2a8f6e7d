"""Cards that are meant to be alike: remembered in the library, and forgotten again."""

from __future__ import annotations

from pathlib import Path

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.library.store.store import Library
from fox_hand.library.store.twins import FILE, keep_on_purpose, kept_on_purpose


def test_pairs_are_remembered_whichever_is_named_first(tmp_path: Path) -> None:
    library = Library.create(tmp_path / "poses", "Poses")
    assert kept_on_purpose(library) == frozenset()
    keep_on_purpose(library, "b", "a")
    keep_on_purpose(library, "c", "b")
    keep_on_purpose(library, "a", "b")
    assert kept_on_purpose(library) == {("a", "b"), ("b", "c")}
    keep_on_purpose(library, "b", "a", kept=False)
    assert kept_on_purpose(Library(library.folder)) == {("b", "c")}


@pytest.mark.parametrize("there", [b"{", b'{"version": 1, "kept": [["a"]]}', b"\xff\x00"])
def test_what_cannot_be_read_is_left_as_it_is(tmp_path: Path, there: bytes) -> None:
    library = Library.create(tmp_path / "poses", "Poses")
    path = library.own / FILE
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(there)
    assert kept_on_purpose(library) == frozenset()
    with pytest.raises(FoxHandError) as caught:
        keep_on_purpose(library, "a", "b")
    assert caught.value.code == "twins.foreign"
    assert path.read_bytes() == there
