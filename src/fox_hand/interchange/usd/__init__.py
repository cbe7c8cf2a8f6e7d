"""Rigs and motion in USD files with UsdSkel skeletons."""

from fox_hand.interchange.usd.motion_in import read_performance
from fox_hand.interchange.usd.motion_out import write_usd
from fox_hand.interchange.usd.rigs import read_rig
from fox_hand.interchange.usd.usd_stage import layers

__all__ = ["layers", "read_performance", "read_rig", "write_usd"]
