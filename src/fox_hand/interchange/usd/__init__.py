"""UsdSkel skeletons, skins and blend shapes. Needs the extra package ``usd-core``."""

from fox_hand.interchange.usd.rigs import read_rig

__all__ = ["read_rig"]
