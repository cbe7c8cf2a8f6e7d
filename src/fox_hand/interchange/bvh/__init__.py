"""BVH skeletons and their motion."""

from fox_hand.interchange.bvh.rigs import read_motion, read_rig
from fox_hand.interchange.bvh.writing import bvh_text

__all__ = ["bvh_text", "read_motion", "read_rig"]
