"""Flat figures on the stage: their drawings, their views, what they stand before.

- ``drawing_shelf``: PuppetShelves
- ``ground_popup``: seen_of_stage, place_under, choose_backdrop, stand_backdrop, GroundPopup
- ``part_tiles``: PartTiles
- ``tile_pictures``: with_setting, drawing_views, view_pictures, TilePictures
"""
