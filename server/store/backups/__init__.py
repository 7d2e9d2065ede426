"""Backups of the house: rows and blobs, consistent with each other, restorable into an empty one.

A backup folder holds `blobs/` (by hash, shared by all backups in it) and for each backup a folder
of its own with `rows/<app>.<model>.jsonl.gz` and `manifest.json`, written last. The format is
described in docs/formats.md.
"""
