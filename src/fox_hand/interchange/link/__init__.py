"""The link to other programs: the protocol's two ends. ``fox_hand_link`` is the host's, one file
that is copied into another program; it imports nothing of ours.
"""

from fox_hand.interchange.link.connection import Connection, HostFacts, LinkError, hosts, sockets

__all__ = ["Connection", "HostFacts", "LinkError", "hosts", "sockets"]
