"""What all work of the application rests on: background jobs, undo, settings, shared files.
Knows nothing of figures or cards.

- ``door``: door_path, Door, understood, knock
- ``draft_history``: DraftHistory
- ``history``: Step, StepsTogether, size_of, History
- ``jobs``: JobState, Job, JobRunner, Jobs
- ``listed_read``: ListedRead
- ``long_work``: WorkState, LongJob, LongWork, time_words
- ``ports``: Pictures
- ``settings``: ScreenSizes, Settings, read_settings, settings_file, settings_path
- ``shared_file``: SharedFile, changed_fields
"""
