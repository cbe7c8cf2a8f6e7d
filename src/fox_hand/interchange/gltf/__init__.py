"""glTF 2.0 (Khronos, ISO/IEC 12113:2022): reading rigs from ``.glb`` and ``.gltf``."""

from fox_hand.interchange.gltf.rigs import read_rig

__all__ = ["read_rig"]
