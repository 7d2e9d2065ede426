"""Which breaks stand out of what lines do by nature."""

from __future__ import annotations

import numpy as np

from ...null import score_of
from .breaks import Break
from .gone import ALIKE_BARS, ENDS, FAINT_MOST, WAYS

#: How far a natural line swings, of its length.
_TRUE = 0.012

#: Lines followed at untouched places, from which on a single one seen from one side may be called
#: broken.
_MANY = 20

#: And how sure it must be (training photographs: those that stand for a flaw are above .95).
_ALONE = 0.93

#: Where this share of the lines of one direction end by nature, as joints do at every brick, a gap
#: in one more says nothing; directions that are alike, degrees, and how many
#: lines must be known.
_ENDING, _SAME_WAY, _KNOWN = 0.4, 12.0, 3

#: A share missing that none reaches.
_NOTHING = 1.1

#: For each what: the amount at which the score is a half where nature gives no reason to ask for
#: more, its width, and the unit.
HALVES = {
    "missing": (0.62, 0.07, "of its length"),
    "offset": (1.9, 0.22, "px"),
    "kink": (3.2, 0.45, "degrees"),
    "tilt": (1.5, 0.2, "degrees"),
    "wave": (1.9, 0.22, "px"),
}


def score_of_break(known: Break, nature: dict[str, np.ndarray], lossy: bool) -> float:
    """How far a break stands out of what lines do at untouched places, 0..1."""
    half, width, _ = HALVES[known.what]
    values = nature[ENDS if known.what == "missing" and not known.paired else known.what]
    if len(values) >= 5:
        # A picture whose own lines break like this at untouched places asks for more.
        half = max(
            half, float(np.quantile(values, 0.95)) * (1.05 if known.what == "missing" else 1.25)
        )
        if known.what == "missing":
            # One line of many that is gone for a while by nature is enough to ask for more.
            half = max(half, 0.8 * float(values.max()))
    else:
        half *= 1.35  # nothing is known of how lines end here
    if not known.paired:
        half *= 1.3
        if known.what == "kink" and len(values) >= 5:
            # From one side a line that bends by nature, once, is enough to ask for more than that.
            half = max(half, 1.15 * float(values.max()))
    if known.what == "missing" and known.paired:
        turn = np.abs(nature[WAYS][:, 0] - known.angle) % 180
        gone = nature[WAYS][np.minimum(turn, 180 - turn) < _SAME_WAY, 1] > 0.5
        if len(gone) >= _KNOWN and gone.mean() >= _ENDING:
            half = max(half, _NOTHING)
    if known.what == "wave":
        # What was built by hand runs true to so much of its length.
        half = max(half, _TRUE * known.length * (1.0 if len(values) >= 5 else 1.35))
    if lossy:
        # Compression roughens profiles, and a rough profile is lost sooner along its way.
        half *= 1.15
    score = float(score_of(np.array(known.amount), half, width))
    faint = float(score_of(np.array(known.contrast), 11.0, 1.6))
    return score * (0.35 + 0.65 * faint)


#: Breaks that begin as near to each other as so many pixels are one thing's.
_NEAR = 12.0


def _apart(breaks: list[Break]) -> int:
    """How many places breaks begin at: both flanks of a strap are one thing that bends."""
    kept: list[Break] = []
    for one in breaks:
        if all(np.hypot(*(one.ends[0] - other.ends[0])) > _NEAR for other in kept):
            kept.append(one)
    return len(kept)


def stands(bundle: list[tuple[float, Break]], known: int) -> bool:
    """Whether lines seen from one side only are enough, where so many others were seen so at
    untouched places.
    """
    what = bundle[0][1].what
    if what == "missing":
        return False
    # Lines that nature bends go each their own way; where a fill was pasted in askew, all go the
    # same.
    alike = max(_apart([other for _, other in bundle if one.like(other)]) for _, one in bundle)
    if alike > 1:
        return known >= 5 or alike > 3
    return what != "kink" and known >= _MANY and bundle[0][0] >= _ALONE


#: Of a wide region: from what part of its swing on a line lies beside its own course, and over what
#: part of its length it must.
_SWINGS, _ALL_ALONG = 0.4, 0.4


def all_along(wave: Break) -> bool:
    """Whether a line swings all along its way rather than at one place, where something lies on it."""
    way = wave.ends[1] - wave.ends[0]
    off = (
        (wave.trace - wave.ends[0]) @ np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-6)
    )
    return bool(np.mean(np.abs(off - np.median(off)) > _SWINGS * wave.amount) >= _ALL_ALONG)


def seen_wide(scored: list[tuple[float, Break]]) -> list[tuple[float, Break]]:
    """Of a wide region, with what is not enough there told of nothing: a line seen over its length
    only that has no other broken like it, and one that swings at one place.
    """

    def enough(score: float, known: Break) -> bool:
        if known.what == "wave":
            return all_along(known)
        return (
            not known.faint
            or sum(
                other.what == known.what
                and other_score >= 0.5
                and min(turn := abs(other.angle - known.angle) % 180, 180 - turn) < ALIKE_BARS
                for other_score, other in scored
            )
            > 1
        )

    return [
        (score if score < 0.5 or enough(score, known) else FAINT_MOST, known)
        for score, known in scored
    ]
