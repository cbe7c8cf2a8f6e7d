"""The words of tests are the source's own, whatever the machine speaks; a program that a test
starts may be told another language."""

import os

os.environ.setdefault("FOX_HAND_LANGUAGE", "en")
