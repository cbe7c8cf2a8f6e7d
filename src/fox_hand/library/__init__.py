"""Libraries on disk: folders of sheets with cards. The files are the truth."""
