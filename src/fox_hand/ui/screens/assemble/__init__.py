"""The Assemble screen: drawings become a puppet.

- ``assemble_canvas``: AssembleCanvas, hung
- ``assemble_screen``: AssembleScreen
- ``guess_rows``: GuessRow, GuessRows
- ``part_images``: PartImage, PartImages
- ``part_panel``: DrawingButton, PartPanel
- ``parts_list``: PartsList, draw_within, paint_swaps
"""
