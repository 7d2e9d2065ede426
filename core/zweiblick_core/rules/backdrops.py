"""What can lie behind a region: the words that the core proposes and a person corrects."""

from __future__ import annotations

#: In the order of how easily what was removed is replaced there.
BACKDROPS = (
    "plain gradient",
    "fine texture",
    "straight structure",
    "organic",
    "water",
    "crowded",
    "frame edge",
)
