"""What is seen of a link to another program: how it goes, where what is kept goes, its own picture.

- ``host_picture``: HostPicture
- ``link_pill``: LinkPill, StateDot
- ``link_row``: LinkRow
- ``link_words``: LinkLook, link_look
"""
