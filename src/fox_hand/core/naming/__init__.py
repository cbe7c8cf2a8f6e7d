"""What names say: the side, the region, the humanoid role, the partner on the other side.
Guesses from names only; what a rig's sidecar says goes before them.

- ``body_finding``: find_body
- ``face_roles``: FaceRole, face_role, face_roles
- ``finger_roles``: Hierarchy, finger_roles
- ``finger_shapes``: finger_shapes
- ``joint_names``: BodyPart, Said, split, read, read_all, stripped, affixes
- ``known_roles``: JointSaid, KnownRoles, known_roles, names_said
- ``mirror_partners``: FoundBy, Pair, Doubt, rest_places, nearest_by_place, infer_partners,
  pairs_of, doubts_of
- ``part_words``: region_word, region_title, side_word, limb_word, limb_title, capital
- ``roles``: infer_roles, Tree, spine_roles
- ``shape_roles``: ShapeRoles, shape_roles
- ``side_region``: tokens, side_words, side_from_name, region_from_name, partner_name, infer_sides,
  infer_regions, label_of, sided_label
"""
