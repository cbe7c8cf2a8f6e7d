"""Rigs and motion in glTF 2.0 files."""

from fox_hand.interchange.gltf.document import named_files
from fox_hand.interchange.gltf.expressions import Expression, read_expressions
from fox_hand.interchange.gltf.motion_in import animations_of, facts_of, read_performance
from fox_hand.interchange.gltf.motion_out import alone, on_character, posed
from fox_hand.interchange.gltf.rigs import read_rig

__all__ = [
    "Expression",
    "alone",
    "animations_of",
    "facts_of",
    "named_files",
    "on_character",
    "posed",
    "read_expressions",
    "read_performance",
    "read_rig",
]
