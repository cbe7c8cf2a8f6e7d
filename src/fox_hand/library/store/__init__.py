"""A library's folder: cards added, replaced, moved, taken out and brought back; what two people did
at once; what waits on this machine; packs and contact sheets.

- ``approval``: Approval
- ``conflicts``: Conflict, set_aside, conflicts, keep_both, take_late, take_early, settle
- ``contact_sheet``: Gap, sheet_bytes, write_sheet
- ``journal``: Journal, written_down, carry_on
- ``moves``: Done, added, take_out, bring_back, move, copy, rename, reword, repicture,
  rename_controls, store_over, use_version, current, use_copy, variant, make_own, with_identity,
  revive, keep_twins, settle_both, settle_late, settle_early
- ``orphans``: leftovers, lost_versions
- ``outbox``: Waiting, Delivery, Outbox
- ``pack``: PackedCard, PackFile, News, TakeIn, Offer, write_pack, read_pack, offers, take_in,
  take_in_extras, json_schema
- ``pack_extras``: PackedSheet, Extras, packed_sheets, packed_maps, packed_rigs, take_extras
- ``search_moves``: add, remove, change
- ``sheet_moves``: make, remove, remove_all, with_inner, nothing, move, merge, describe, colour,
  order, rename_library, set_approvers
- ``sheets``: Habit, Sheet, read_sheet, sheet_of, write_sheet, make_sheet, move_sheet, inner_sheets,
  merge_sheets, remove_sheet, order_sheets, sheet_path
- ``store``: own_folder_over, CardChangedError, Library, login_name, now
- ``troubles``: Trouble, troubles, shown
- ``twins``: kept_on_purpose, keep_on_purpose, pair_of
"""
