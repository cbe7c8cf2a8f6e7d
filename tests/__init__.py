"""The words of tests are the source's own, whatever the machine speaks."""

import os

os.environ["FOX_HAND_LANGUAGE"] = "en"
