"""What every other room may use: errors, progress of long work, versions of files."""
