"""The window of the simulated host: another program than ours, and it looks like one.

- ``host_window``: HostWindow, SeenHost, SeenRow
"""
