"""The Night Ferry: a made-up crew, ready to be played with."""
