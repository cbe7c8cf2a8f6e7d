"""Long work as it is seen.

- ``closing``: Closing, ask_about
- ``desktop_notice``: DesktopNotice
- ``job_rows``: JobBar, JobRow, outcome_words
- ``jobs_panel``: JobsPanel, JobsSign
"""
