"""From a state to matrices: forward kinematics, drives, two-bone limbs, aim and twist, skinning.
Compiled once for a rig and then run for one frame or for many.

- ``aim_twist``: AimSet, TwistSet
- ``batched``: frames_last, dot, length, cross, unit, across, around, some_perpendicular, basis,
  place, product, turned_back, apply, column_lengths, directions, about, rotations, euler_xyz
- ``driving``: curve, output, driven_settings, moves_rest, DrivenNodes
- ``evaluation``: Evaluation, Program, rest_units
- ``schedule``: Levels, SolverStep, placing_order, renumbered, renumbered_solver, renumbered_drive,
  Planner
- ``skinning``: morphed, skinned
- ``two_bone_ik``: LimbSet
"""
