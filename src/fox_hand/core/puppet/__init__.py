"""Flat puppets: drawings in parts, what hangs on what, and what is guessed of it.

- ``between_views``: InView, view_of_pose, in_view
- ``drawn``: PartDrawing, DrawnPart, DrawnFigure, png
- ``facing``: looks_aside
- ``guessing``: Silhouette, shape_of, guessed, told
- ``part_names``: side_of, region_of, plain_words, above_by_name, wanted_above, body_by_name,
  partner_of, makes_limb
- ``puppet``: GuessKind, Guess, PuppetPart, Aside, Puppet
"""
