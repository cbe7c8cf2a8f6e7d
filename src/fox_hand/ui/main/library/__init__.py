"""What is done with cards, sheets and libraries from their menus, by hand and by dropping.

- ``card_menu``: card_menu, ask_control_names, ask_name, ask_tags, approve
- ``card_work``: CardWork
- ``chart_work``: ChartWork
- ``library_commands``: library_commands
- ``library_menu``: library_menu, ask_new_library, ask_library, order_menu, toggle_labels
- ``outline_work``: OutlineWork
- ``sheet_menu``: sheet_menu, put_before, ask_sheet, ask_move
"""
