"""A pose, or many, becomes a card: what goes in, what it depends on, how it is named.

- ``batch``: named_by, marked_drafts
- ``capture_controller``: CaptureState, CaptureController
- ``capture_groups``: CaptureGroup, groups_of
- ``capture_pictures``: CapturePictures, playing, motion_frames, framing
- ``draft``: CaptureDraft, on_ground, named
- ``marked``: Marked, ShotFrames
- ``presets``: habit_of
"""
