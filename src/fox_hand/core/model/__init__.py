"""What a character is made of: nodes, controls and settings, solvers, meshes, and a state of all
values. Plain immutable data without behaviour of its own.

- ``body_frame``: vector, BodyFrame
- ``controls``: Side, Region, ControlKind, Channel, MirrorRule, SettingKind, Control, Setting
- ``mesh``: PackedPicture, Material, MeshPart, smooth_normals
- ``skeleton``: Skeleton
- ``solvers``: Limb, Aim, Twist, DrivenKind, Drive
- ``state``: State
"""
