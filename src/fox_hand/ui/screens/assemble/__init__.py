"""The Assemble screen: drawings become a puppet.

- ``aside_strip``: AsideStrip
- ``assemble_canvas``: AssembleCanvas, hung
- ``assemble_screen``: AssembleScreen
- ``guess_rows``: GuessRow, GuessRows
- ``limit_arc``: LimitArc
- ``part_images``: PartImage, PartImages
- ``part_panel``: DrawingButton, NameField, PartPanel
- ``parts_list``: PartsList, draw_within, paint_swaps
- ``trying``: Trying, angle_about, between
"""
