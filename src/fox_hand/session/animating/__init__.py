"""Keys and clips of a figure over time: set, moved, laid in, and motion brought in.

- ``card_rig``: card_rig
- ``clip_placement``: ClipPlacement, feet_of, remember_feet, ClipPlacements, keyed
- ``clip_transfer``: ClipFeet, ClipTransfer
- ``clips``: moving, captured_clip, keep_to_view, clip_for, played_clip, clip_on, lost_of_clip,
  pose_at, mirrored_clip
- ``face_motion``: FaceMotion, face_motion, moving_settings
- ``following``: Followed, Newer, frames_of, changed_by_hand, followed, touched
- ``frame_review``: FrameReview
- ``frame_sequence``: FrameSequence
- ``key_edits``: held, stretched
- ``key_groups``: KeyGroup, channel_ids_in, KeyedPart, keyed_parts, option_at, part_of,
  key_groups_of, title_of, label_of
- ``keying``: Copied, KeyDrag, Keying, Between
- ``motion_import``: Performed, animations_in, performed, keys_on, options_for, lost_words,
  unit_words, held_words, carried_by, laid_on, followed_on, frame_of, pairs_of
- ``performance_draft``: PerformanceDraft, opened_performance
- ``performance_fit``: PerformanceTold, PerformanceFit
- ``stick_figure``: StickFigure, stick_of
"""
