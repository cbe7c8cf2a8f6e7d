"""The window of the simulated host: another program than ours, and it looks like one.

- ``host_window``: HostImage, HostTime, HostWindow, SeenHost, SeenRow
"""
