"""Flat puppets out of drawings.

- ``assembly``: PuppetAssembly
- ``brought_drawings``: GivenDrawing, add_to_files, brought_to, with_brought
- ``drawing_cards``: drawing_of, choice_of_drawing, fitted, already_there, own_nodes, part_under
- ``making``: MadePuppet, puppet_of, said_again, drawings_mark, height_of, write_draft, spoken,
  write_puppet
- ``more_drawings``: add_drawings, add_view
- ``picture_drawing``: drawing_from
"""
