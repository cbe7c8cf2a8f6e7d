"""Two poses side by side and what differs.

- ``compare_list``: CompareList, shown_values
- ``compare_screen``: ComparePicture, CompareScreen
"""
