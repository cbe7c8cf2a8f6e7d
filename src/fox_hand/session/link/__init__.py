"""Figures of another program: their values come from there and go there.

- ``host_curves``: curves_from, keys_from, value_at
- ``host_link``: HostLink, LinkState, listening_hosts
- ``kept_rigs``: keep_description, plain_name
- ``linked_figure``: Line, LinkedFigure
- ``own_terms``: changed_values, state_from, values_from
- ``steps_there``: RigFacts, StepThere, curves_of_step, is_there, poses_of, refusals,
  spans_of, values_of_poses, with_channels
"""
