"""Drawings by their authors, in folders and layered files, and how they are read."""
