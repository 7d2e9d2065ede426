"""How far tiles agree with their counterparts, and how far they must: pooled over those that share an
offset, and beyond how far a place agrees with what lies beside it.
"""

from __future__ import annotations

import numpy as np

from .grain import plain_agreement
from .matches import Match, offset_of, part_of
from .turned import MOVED

#: By how much two places must agree more than a place with what lies beside it (training
#: photographs: copies agree with that by .4 at most, what was taken for one along
#: lines by .5 to .9); and of how many tiles that is asked.
MORE, _ASKED = 0.15, 12


def alike_itself(
    fine: np.ndarray,
    steep: np.ndarray,
    at: tuple[int, int],
    side: int,
    inside: np.ndarray | None = None,
) -> float:
    """How far a tile agrees with the same plane a few pixels beside it, -1..1: the most of some
    directions, each there and back. Grain does not; what runs straight on
    agrees with itself wherever it is moved along its own direction, as it does with any other place
    of the same line.
    """
    height, width = fine.shape
    square = lambda x, y: (slice(y, y + side), slice(x, x + side))
    own, best = square(*at), -1.0
    for dx, dy in MOVED:
        beside = [
            square(x, y)
            for x, y in ((at[0] + dx, at[1] + dy), (at[0] - dx, at[1] - dy))
            if min(x, y) >= 0 and x + side <= width and y + side <= height
        ]
        found = [
            plain_agreement(fine[own], fine[one], np.maximum(steep[own], steep[one]), inside)[0]
            for one in beside
        ]
        best = max(best, float(np.mean(found))) if found else best
    return best


#: The agreement of the grain that makes a copy, for one tile and for two and three or more that
#: share an offset; lossless, and behind compression, which takes some of
#: it from copies too. Without a copy it is zero give or take .1, more where a line runs through
#: all of a tile (clean training photographs: up to .63 for one tile).
NEEDED = {False: (0.70, 0.50, 0.38), True: (0.58, 0.42, 0.30)}


def pooled_agreement(
    filled: np.ndarray, lossy: bool, matches: list[Match], controls: np.ndarray, doubt: float
) -> tuple[np.ndarray, np.ndarray]:
    """For each match the agreement, its own or pooled over the tiles that share its offset,
    whichever is more above what is needed, and what is needed.
    """
    highest = min(0.35 if lossy else 0.6, float(np.quantile(controls, 0.9)))
    # A print, a grating: where several places of the picture have their like, a place that has one
    # too is no copy by that.
    highest = max(highest, min(0.77, float(np.sort(controls)[-_SEVERAL])))
    itself = lambda one: (
        one.mirrored
        and filled[
            one.source[1] : one.source[1] + one.side, one.source[0] : one.source[0] + one.side
        ].mean()
        > 0.5
    )
    share = lambda one: float(
        filled[one.at[1] : one.at[1] + one.side, one.at[0] : one.at[0] + one.side].mean()
    )
    agreed, needed = [], []
    # What is patched together from many places agrees with them at many offsets.
    few = sum(one.agreement > _SAYS for one in matches) < FILLS * len(matches)
    for match in matches:
        key = offset_of(match)
        same = [
            other
            for other in matches
            if (there := offset_of(other))[0] == key[0]
            and abs(there[1] - key[1]) <= 2
            and abs(there[2] - key[2]) <= 2
        ]
        options = []
        # By a part of a tile alone, or by two, nothing is known.
        for some in ([match], same) if share(match) > _WHOLE else (same,) if len(same) > 2 else ():
            grain = float(np.median([one.grain for one in some]))
            # Little grain tells little; and where only a few tiles of many say anything, they may
            # be what is likest by chance.
            least = (
                max(NEEDED[lossy][min(len(some), 3) - 1], highest + 0.15)
                + 0.5 * max(0.0, 0.6 - grain)
                + 0.06 * doubt
            )
            least += _FEW_SAY * few + _PARTLY * (1.0 - float(np.mean([share(one) for one in some])))
            if match.coarse == 0.0:
                # Where fine detail is regular, a search by it finds what is likest of all.
                least = max(least, min(float(controls.max()) + 0.05, 0.92))
            # A thing that is alike on both sides of its middle lies in the fill with both: only the
            # very pixels make a copy of that.
            # A thing whose middle lies beside the fill is alike on both sides of an upright axis:
            # level with itself, and near.
            beside = (
                match.mirrored
                and abs(match.source[1] - match.at[1]) <= 2
                and abs(match.source[0] - match.at[0]) < 4 * match.side
            )
            options.append(
                (
                    float(np.mean([one.agreement for one in some])),
                    max(least, 0.9) if itself(match) else least + 0.25 * beside,
                )
            )
        best = max(
            options, key=lambda option: option[0] - option[1], default=(match.agreement, 2.0)
        )
        agreed.append(best[0])
        needed.append(best[1])
    return np.array(agreed), np.array(needed)


def beyond_itself(
    fine: np.ndarray,
    steep: np.ndarray,
    filled: np.ndarray,
    matches: list[Match],
    agreed: np.ndarray,
    needed: np.ndarray,
) -> np.ndarray:
    """What is needed of each match, (n,): what agrees no more with a far place than with what lies
    beside it runs straight on, and is no copy.
    """
    near = np.flatnonzero(agreed > needed - 0.05)
    asked = near[np.argsort(needed[near] - agreed[near], kind="stable")][:_ASKED]
    if not len(asked):
        return needed
    itself = [
        alike_itself(fine, steep, one.at, one.side, part_of(filled, one.at, one.side))
        for one in (matches[number] for number in asked)
    ]
    least = np.minimum(0.92, np.array(itself) + MORE)
    needed = needed.copy()
    # Asked are the surest; what the others need goes with them.
    needed[near] = np.maximum(
        needed[near], float(np.median(least)) if len(near) > len(asked) else 0.0
    )
    needed[asked] = np.maximum(needed[asked], least)
    return needed


#: What part of the fill a copy must cover that was found by its grain alone, or agree by so much
#: more.
FILLS, _FEW_SAY = 0.35, 0.12
#: What part of a tile must lie in the fill for it to speak by itself; and how much more it must
#: agree by, for all of it that does not.
_WHOLE, _PARTLY = 0.6, 0.25
#: How many places of the untouched picture that have their like make it a picture where things
#: have.
_SEVERAL = 3
#: The agreement from which on a tile speaks for a copy at all.
_SAYS = 0.45
