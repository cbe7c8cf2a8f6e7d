"""Charts: lists of the shapes a character should have, and which of its cards are them.

- ``chart``: Slot, Assigned, Chart, alike_name, json_schema
- ``chart_file``: ChartFile, read_charts, read_chart, chart_of, chart_text, assigned_text,
  with_assigned, write_chart
- ``chart_moves``: chart_path, add, take_away, change, assign, said_with
- ``filling``: Why, Filled, Filling, fill, belongs, owners
- ``ready``: ready_charts
- ``sample_pictures``: cut, give_pictures
"""
