"""Flat puppets out of drawings.

- ``assembly``: PuppetAssembly
- ``making``: puppet_of, height_of, write_draft, spoken, write_puppet
"""
