"""The published types of messages are those that really go over a link."""

from __future__ import annotations

import contextlib
import json
from pathlib import Path
from typing import Any, get_type_hints

import jsonschema
import msgspec

from fox_hand.interchange.link import Connection
from fox_hand.interchange.link.fox_hand_link import METHODS
from fox_hand.interchange.link.messages import Events, Requests, Results, json_schema
from tests.interchange.link.conftest import Start
from tests.interchange.link.test_link import RIG, until

SCHEMA = Path(__file__).parents[3] / "docs" / "format" / "link-1.schema.json"
NOD = {"control": "marrow:M_head_ctl", "channel": "turn.x"}
HANDLES = {"frame": 2.0, "value": 1.0, "ease": "curve", "in": [-1.0, 0.0], "out": [1.0, 0.5]}


def test_the_published_schema_is_the_one_of_the_types() -> None:
    assert SCHEMA.read_bytes() == json_schema()
    jsonschema.Draft202012Validator.check_schema(json.loads(SCHEMA.read_text("utf-8")))


def test_every_method_has_its_types_and_a_real_host_keeps_to_them(start: Start) -> None:
    asked, answered = get_type_hints(Requests), get_type_hints(Results)
    assert set(asked) == set(answered) == {"hello", *METHODS}
    running, heard = start(), list[tuple[str, dict[str, Any]]]()
    link = Connection(running.link.path, lambda method, params: heard.append((method, params)))
    values = {"marrow:M_head_ctl": {"turn.x": 3.0}}
    more: dict[str, dict[str, Any]] = {
        "show": {"values": values, "number": 1},
        "keep": {"values": values, "name": "Nod", "keyed": True, "layer": None},
        "undo": {"name": "Nod"},
        "set_keys": {"curves": [{**NOD, "keys": [HANDLES]}], "name": "Nods", "layer": "Base"},
        "select": {"controls": ["marrow:M_head_ctl"]},
        "go": {"frame": 4.0},
        "switch": {"name": "armL", "to": "IK"},
        "picture": {"width": 32, "height": 32},
    }
    with contextlib.closing(link):
        for method in METHODS:
            params: dict[str, Any] = dict(more.get(method, {}))
            if "rig" in asked[method].__struct_fields__:
                params["rig"] = RIG
            if "revision" in asked[method].__struct_fields__:
                params["revision"] = link.ask("values", {"rig": RIG})["revision"]
            msgspec.convert(params, asked[method], strict=True)
            msgspec.convert(link.ask(method, params, 60.0), answered[method], strict=True)
        with running.lock:
            running.link.rigs_changed()
            running.link.changed(running.host.change_something())
            running.link.selected(RIG)
            running.link.moved_in_time()
            running.link.scene_changed("undone")
        told = get_type_hints(Events)
        until(lambda: {method for method, _ in heard} >= set(told) - {"role"})
        for method, params in heard:
            msgspec.convert(params, told[method], strict=True)
