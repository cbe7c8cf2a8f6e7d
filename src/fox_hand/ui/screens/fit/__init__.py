"""A card of one character on another: what goes where, and by which rules.

- ``fit_list``: FitColumns, FitLine, group_of, FitList
- ``fit_rules``: FitRules
- ``fit_screen``: FitBar, FitScreen
"""
