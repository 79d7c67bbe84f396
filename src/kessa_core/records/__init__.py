"""A record that shows when it was tampered with.

chain    entries, each sealed together with the one before
"""

from kessa_core.records.chain import Break, Entry, check, read, seal, sha

__all__ = ["Break", "Entry", "check", "read", "seal", "sha"]
