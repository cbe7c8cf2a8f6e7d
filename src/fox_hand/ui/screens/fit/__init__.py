"""A card of one character on another: what goes where, and by which rules.

- ``fit_bar``: FitBar
- ``fit_list``: FitColumns, FitLine, group_of, FitList
- ``fit_rules``: FitRules
- ``fit_screen``: FitScreen
- ``fit_words``: verdict, card_words, apart_words, how_words, still_asked
"""
