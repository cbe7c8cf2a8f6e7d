"""What the application does, without a window."""
