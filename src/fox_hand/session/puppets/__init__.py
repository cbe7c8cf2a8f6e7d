"""Flat puppets out of drawings.

- ``making``: puppet_of, spoken, write_puppet
"""
