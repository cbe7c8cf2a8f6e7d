"""A pose, or many, becomes a card: what goes in, what it depends on, how it is named.

- ``away``: away_from, farthest_first, named, channel_name, way_words
- ``batch``: named_by, HeldBy, MarkedFrames, held_words
- ``capture_controller``: CaptureState, CaptureController
- ``capture_groups``: CaptureGroup, groups_of, without_own_turn
- ``capture_pictures``: CapturePictures, playing, motion_frames, framing, framed
- ``chosen_channels``: ChosenChannels
- ``draft``: CaptureDraft, on_ground
- ``marked``: Marked, ShotFrames
- ``presets``: habit_of
"""
