"""A stand-in for an animation program: a scene with two figures whose control rigs are others than
ours, linked to like any host.

- ``control_rig``: control_rig
- ``first_keys``: animate
- ``host_desk``: HostDesk, HostRow
- ``host_scene``: ChannelKeys, HostFigure, HostScene
- ``host_view``: HostView
- ``simulated_host``: Habits, SimulatedHost, run
"""
