"""Flat puppets out of drawings.

- ``assembly``: PuppetAssembly
- ``drawing_cards``: drawing_of, choice_of_drawing, fitted, already_there, own_nodes, part_under
- ``making``: puppet_of, said_again, drawings_mark, height_of, write_draft, spoken, write_puppet
- ``more_drawings``: add_drawings, add_view
"""
