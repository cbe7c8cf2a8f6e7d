"""What a picture is asked for: camera, size, quality, and who stands in it.
Nothing here draws.

- ``anchor``: Anchor, anchor_row
- ``backdrop``: Placed, facing, depth_of, backdrop_rig, standing_at, filling
- ``camera``: Camera
- ``render_request``: Quality, Standing, Contour, View, Picture
- ``true_size``: TrueSize, true_size, at_true_size
- ``usual_views``: seen_from
"""
