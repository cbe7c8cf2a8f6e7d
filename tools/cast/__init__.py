"""Builds the demo cast: characters out of numbers, written as glTF files.

A build-time tool. Lengths inside are *heads* (the deckhand's head is one unit tall);
:data:`cast.proportions.METRES_PER_HEAD` turns them into metres when a file is written.
"""
