"""Fox Hand: keep the poses of rigged characters as cards and put them back on."""

__version__ = "0.1.0"
