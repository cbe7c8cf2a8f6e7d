"""A pose, or many, becomes a card: what goes in, what it depends on, how it is named.

- ``away``: away_from, farthest_first, named, setting_name, setting_words,
  channel_name, way_words
- ``batch``: named_by, HeldBy, MarkedFrames, held_words
- ``capture_controller``: CaptureState, CaptureController
- ``capture_groups``: CaptureGroup, groups_of, without_own_turn
- ``capture_pictures``: CapturePictures, playing, motion_frames
- ``card_framing``: around, worn, rows_of, usual, framed, Shot, shot_of, frame_of_card, taken,
  anchor_for, on_ground, in_the_middle
- ``carrying``: carrying
- ``chosen_channels``: ChosenChannels
- ``draft``: CaptureDraft
- ``file_cards``: animation_card, expression_cards, empty, FileCards
- ``marked``: Marked, ShotFrames
- ``presets``: habit_of
- ``puppet_cards``: view_draft, drawing_draft, PuppetCards
- ``reshooting``: Reshot, reshot, PictureChange, Reshoots, not_drawn
"""
