"""Two poses side by side and what differs.

- ``compare_facts``: facts_of
- ``compare_list``: CompareList, shown_values
- ``compare_screen``: ComparePicture, CompareScreen
"""
