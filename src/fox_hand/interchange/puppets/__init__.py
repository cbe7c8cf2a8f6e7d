"""Flat puppets as files: the model and its sidecar, what a person said of the drawings, and one
more drawing for a part.

- ``puppet_adding``: is_added, check_puppet, with_drawing
- ``puppet_draft``: read_draft, draft_bytes
- ``puppet_file``: puppet_files
- ``puppet_quads``: drawing_mesh
"""
