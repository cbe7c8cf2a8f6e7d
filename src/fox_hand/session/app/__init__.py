"""The workspace that holds all of it together, for a window or without one.

- ``apply_controller``: ApplyController
- ``card_updates``: StaleCard, CardUpdates
- ``headless``: OpenShot, open_shot_file, card_on, Laid, worn, worn_over, frames_for, moved_pose,
  saved_names, clip_of, lost_words
- ``limbs``: limbs_of, on_goal, switch
- ``linked_stage``: ComingKey, LinkedStage, OwnStage
- ``mirroring``: Mirroring, rows_onto, mirror_figure
- ``needs``: Acting, Posing, Animating, PosingInTime, Shelving, Charting, Capturing, Copying
- ``puppet_drawings``: PuppetFiles, PuppetDrawings
- ``rig_corrections``: Corrections, Trial, PairsDraft, corrected, lively
- ``sets``: make_set, rename_set, delete_set, move_set, keep_in_rig, set_rows
- ``shot_settings``: ShotSettings
- ``stage_composition``: compose_view, neighbours, neighbouring_frames
- ``stage_needs``: OnStage, Mixing
- ``swapping``: swap_at_hand, drawing_shown, show_drawing, next_drawing, show_view, next_view,
  turn_facing
- ``workspace``: Workspace
"""
