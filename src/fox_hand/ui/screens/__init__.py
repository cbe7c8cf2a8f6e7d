"""What takes the whole window for a while: care, compare, fit, pairs.

- ``care/``
- ``compare/``
- ``fit/``
- ``pairs/``
- ``performance/``
"""
