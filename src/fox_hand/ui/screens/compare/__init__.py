"""Two poses side by side and what differs.

- ``compare_list``: CompareList
- ``compare_screen``: ComparePicture, CompareScreen
"""
