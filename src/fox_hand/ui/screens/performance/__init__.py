"""A performance on a character: who follows whom, and where the feet stand.

- ``frame_player``: FramePlayer
- ``ground_numbers``: NumberCard, GroundNumbers
- ``lanes_paint``: Lanes, LanesPainter
- ``performance_head``: rate_words, PerformanceHead
- ``performance_lanes``: LaneHold, PerformanceLanes
- ``performance_screen``: PerformanceScreen
- ``performance_stage``: PerformanceStage
- ``unit_line``: unit_name, UnitLine
"""
