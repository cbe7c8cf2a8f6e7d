"""Files of other programs and the rig's own sidecar; each format module stands alone."""
