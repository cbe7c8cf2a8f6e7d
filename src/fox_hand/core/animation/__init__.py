"""Values over time: curves with keys, clips and their instances over them, recorded motion.
Sampled for one frame or for many at once.

- ``clip``: Clip, player_of, Player, cut_out, mapped, of_moments, channel_values
- ``clip_instances``: ClipInstance, smooth, ClipInstancePlayer
- ``curves``: ChannelKind, ChannelId, ChannelCurve, joined, Origin, one_key, Keys, channel_ids_of,
  row_of, place_of, values_in, keys_at, changed_lanes, with_lanes
- ``inbetween``: spanning, in_between
- ``interpolation``: Ease, Track, straight, curved, smooth_tangents, aligned
- ``key_poses``: joint_speeds, key_poses, held_frames
- ``motion``: Curve, Motion, Source, motion_of
- ``passage``: passage, plain
- ``performance``: FileKeys, Performance
- ``sampler``: Sampler, line_of
"""
