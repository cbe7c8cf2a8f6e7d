"""Name maps: a validator reads what the docs say they are; what is foreign is left alone."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.matching.name_match import Rule, Rules
from fox_hand.core.matching.renaming import renamed
from fox_hand.core.pose.pose import Held, Pose, RestFrame
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.name_map import NameMap, map_path, read_map, write_map

SCHEMA = Path(__file__).parents[3] / "docs" / "format" / "foxmap-1.schema.json"


def test_what_is_written_is_valid_and_is_read_again(tmp_path: Path) -> None:
    rules = Rules((Rule("_L", "Left"), Rule(r"finger_(\w+)", r"\1", pattern=True)), any_case=False)
    content = NameMap("Marrow", "Quill / tall", rules, {"arm_L": "LeftUpperArm", "hat": None})
    write_map(tmp_path, content)
    path = map_path(tmp_path, "Marrow", "Quill / tall")
    assert path.is_relative_to(tmp_path)
    document = json.loads(path.read_text())
    jsonschema.Draft202012Validator(json.loads(SCHEMA.read_text())).validate(document)
    assert read_map(tmp_path, "Marrow", "Quill / tall") == content
    assert read_map(tmp_path, "Quill / tall", "Marrow") == NameMap("Quill / tall", "Marrow")


def test_the_demos_own_map_is_valid() -> None:
    own = shipped() / "library" / ".foxhand"
    document = json.loads(map_path(own, "Marrow", "Quill").read_text())
    jsonschema.Draft202012Validator(json.loads(SCHEMA.read_text())).validate(document)
    assert read_map(own, "Marrow", "Quill").names["arm_L"] == "LeftUpperArm"


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("{", "map.damaged"),
        ("[]", "map.damaged"),
        ('{"format": "other"}', "map.damaged"),
        ('{"format": "fox-hand name map", "version": 2}', "version.newer"),
        ('{"format": "fox-hand name map"}', "version.missing"),
    ],
)
def test_what_is_no_map_is_told_and_left(tmp_path: Path, text: str, code: str) -> None:
    path = map_path(tmp_path, "A", "B")
    path.parent.mkdir(parents=True)
    path.write_text(text)
    with pytest.raises(FoxHandError) as told:
        read_map(tmp_path, "A", "B")
    assert told.value.code == code
    assert path.read_text() == text


def test_what_a_person_wrote_otherwise_is_used_as_far_as_it_is_understood(tmp_path: Path) -> None:
    path = map_path(tmp_path, "A", "B")
    path.parent.mkdir(parents=True)
    path.write_text(
        json.dumps(
            {
                "format": "fox-hand name map",
                "version": 1,
                "rules": [{"find": "x"}, {"put": "y"}, 3],
                "names": {"a": "b", "c": 4, "d": None},
                "later": True,
            }
        )
    )
    found = read_map(tmp_path, "A", "B")
    assert found.rules.items == (Rule("x", ""),)
    assert found.names == {"a": "b", "d": None}


def test_renaming_goes_through_parents_settings_and_options() -> None:
    rest = RestFrame("arm_L", (0, 0, 0), (0, 0, 0, 1), (1, 1, 1), (0, 0, 0, 1))
    pose = Pose(
        {
            "arm_L": Held(turn=(0, 0, 0, 1)),
            "hand_L": Held(
                turn=(0, 0, 0, 1), rest=rest, settings={"grip_L": 2.0}, options={"grip_L": "rope"}
            ),
        }
    )
    found = renamed(pose, Rules((Rule("_L", ".left"),))).controls
    assert list(found) == ["arm.left", "hand.left"]
    hand = found["hand.left"]
    assert hand.rest is not None
    assert hand.rest.parent == "arm.left"
    assert (dict(hand.settings), dict(hand.options)) == ({"grip.left": 2.0}, {"grip.left": "rope"})
    with pytest.raises(FoxHandError, match="would be called"):
        renamed(pose, Rules((Rule("arm", "hand"),)))
