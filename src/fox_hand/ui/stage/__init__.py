"""The view of the figures and what is done on it: handles, gizmos, gestures, inset view,
onion skin, reference images.

- ``camera_following``: CameraFollowing
- ``draft_size``: DraftSize
- ``figure_pair``: FigurePair
- ``gestures``: RightPress, StageView, Gesture, Orbit, Pan, Marquee, FreeTurn, Shift, DialTurn
- ``gizmos``: dial_of, arrows_of, centre_of
- ``handles``: HandleLayout, lay_out, HandleState, HandleStamps, draw_handle
- ``inset_view``: InsetView
- ``move_gizmo``: MoveGizmo, draw_arrows
- ``onion_skin``: OnionSkin
- ``reference_images``: can_pin, ImageGrip, ReferenceImage, ReferenceImages
- ``rotate_gizmo``: RotateGizmo, draw_dial, draw_tag
- ``stage_bars``: StageBars, EmptyStage
- ``stage_keys``: stage_keys
- ``stage_paint``: outline_path, paint_checks, paint_lead, paint_outlines, paint_handles
- ``stage_pictures``: StagePictures
- ``stage_press``: Handled, pressed, figure_at
- ``stage_view``: Stage
"""
