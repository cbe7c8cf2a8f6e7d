"""How everything looks: colours, type, icons, the style sheet, words shown as plain text.
Imports nothing of what is shown.

- ``plain_text``: Words, plain_tip, menu_word
- ``style``: style_sheet, dialog_sheet, manual_sheet, palette
- ``theme``: Theme
- ``tokens``: Tokens, contrast
"""
