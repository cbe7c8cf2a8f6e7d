"""Figures of another program: their values come from there and go there.

- ``host_curves``: curves_from, keys_from, value_at
- ``host_link``: HostLink, LinkState, listening_hosts
- ``kept_rigs``: keep_description, plain_name
- ``linked_figure``: Line, LinkedFigure, RigFacts, spans_of
- ``own_terms``: changed_values, state_from, values_from
"""
