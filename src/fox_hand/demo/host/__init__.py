"""A stand-in for an animation program: a scene with two figures whose control rigs are others than
ours, linked to like any host.

- ``control_rig``: control_rig
- ``host_scene``: ChannelKeys, HostFigure, HostScene
- ``simulated_host``: Habits, SimulatedHost, run
"""
