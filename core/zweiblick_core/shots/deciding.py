"""From how far something lies beyond what is natural to what is reported of it."""

from __future__ import annotations

import json
from functools import cache
from importlib.resources import files
from typing import Any

import numpy as np

from ..null import score_of
from .reading import Seen

#: What is one flaw where both are reported, of which the plainer is kept: a fill that moves does not stay
#: as it is either, structure that changes changes the brightness, and where every frame differs none
#: stands out.
ONE_FLAW = (
    ("drift", "boiling"),
    ("drift", "pop"),
    ("flicker", "pop"),
    ("flicker", "boiling"),
    ("boiling", "pop"),
    ("shadow", "boiling"),
)


@cache
def cut_offs() -> dict[str, Any]:
    """Of each kind: `half`, from how many spreads on it is reported, and `width` of its curve."""
    found: dict[str, Any] = json.loads(
        (files("zweiblick_core") / "model" / "shots-v0.json").read_text("utf-8")
    )
    return found


def score(seen: Seen) -> float:
    """0..1, .5 where it is reported from."""
    of_kind = cut_offs()["kinds"][seen.kind]
    return float(score_of(np.array(seen.far), of_kind["half"], of_kind["width"]))


def reported(all_seen: list[Seen]) -> list[Seen]:
    """Those that are reported, without what another explains."""
    kept = {seen.kind: seen for seen in all_seen if score(seen) >= 0.5}
    explained = set()
    for one, other in ONE_FLAW:
        if one in kept and other in kept:
            explained.add(other if kept[one].far >= kept[other].far else one)
    return [seen for kind, seen in kept.items() if kind not in explained]
