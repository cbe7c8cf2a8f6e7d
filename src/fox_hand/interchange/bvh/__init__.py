"""BVH skeletons and their motion."""

from fox_hand.interchange.bvh.rigs import read_motion, read_rig

__all__ = ["read_motion", "read_rig"]
