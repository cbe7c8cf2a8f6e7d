"""Figures of another program: their values come from there and go there.

- ``host_link``: HostLink, LinkState
- ``linked_figure``: Line, LinkedFigure
- ``own_terms``: changed_values, state_from, values_from
"""
