"""How lines that enter a fill are broken inside."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from .profiles import LAGS, STEP, fitted, patch_of, refined, sought
from .rays import DEEP, Ray, goes_on_beyond, in_one_line, pairs, rays_of

#: How long a line must be outside for its end to count.
LONG = 45


@dataclass(frozen=True)
class Break:
    """One line that does not go on. `what`: one of `HALVES`; `amount`: share missing, pixels, or
    degrees;
    `deviation`: (offset, swing, tilt) of a line that was followed between two ends, pixels and degrees;
    `signed`: of a line seen from one side, which way it turns (degrees, from x
    towards y) or jumps (pixels, along the normal of its direction within half a turn); `faint`:
    seen over its length only (`faint_lines`); `hidden`: whether one of its ends shows
    only over its length; `sure`: 0..1 how well the edge was recognised, of a faint one by how many
    spreads less is there than should be; `ends`: the outer ends [(x,
    y), ...]; `trace`: where the edge was found inside."""

    what: str
    amount: float
    sure: float
    ends: tuple[np.ndarray, ...]
    trace: np.ndarray
    contrast: float
    length: float
    angle: float
    paired: bool
    deviation: tuple[float, float, float] = (0.0, 0.0, 0.0)
    signed: float = 0.0
    faint: bool = False
    hidden: bool = False

    def like(self, other: Break) -> bool:
        """Whether both, seen from one side, go the same way by about as much."""
        small, large = sorted((abs(self.signed), abs(other.signed)))
        return self.signed * other.signed > 0 and large < 2 * small


def _along_pair(luma: np.ndarray, area: np.ndarray, first: Ray, second: Ray) -> Break | None:
    between = second.entry - first.entry
    gap = float(np.hypot(*between))
    toward = between / gap
    count = int((gap - 5) // STEP)
    if count < 3:
        return None
    patch = patch_of(luma, first.entry, toward, 3.0, count * STEP)
    middles = first.entry + (3.0 + (np.arange(count) + 0.5) * STEP)[:, None] * toward
    xs, ys = (
        np.clip(middles[:, 0].round().astype(int), 0, area.shape[1] - 1),
        np.clip(middles[:, 1].round().astype(int), 0, area.shape[0] - 1),
    )
    inside = area[ys, xs]
    if inside.mean() < 0.7:
        return None
    rows = patch.reshape(count, STEP, -1).mean(axis=1)
    template = (first.profile + second.profile[::-1]) / 2
    correlation, amplitude = sought(rows, template)
    near = slice(LAGS - 2, LAGS + 3)
    # A joint that is dark between light tiles may be light between dark ones.
    shown = (correlation[:, near] > 0.45) | (correlation[:, near] < -0.7)
    there = np.clip(np.where(shown, np.abs(amplitude[:, near]), 0.0).max(axis=1), 0, 1)
    best = correlation.argmax(axis=1)
    lags = refined(correlation, best) - LAGS
    good = (
        (correlation.max(axis=1) > 0.75)
        & (amplitude[np.arange(count), best] > 0.45)
        & (np.abs(lags) < LAGS - 0.5)
    )
    normal = np.array([-toward[1], toward[0]])
    trace = middles + np.where(good, lags, 0.0)[:, None] * normal
    facts: dict[str, Any] = dict(
        ends=(first.entry, second.entry),
        contrast=min(first.contrast, second.contrast),
        length=gap,
        angle=float(np.degrees(np.arctan2(toward[1], toward[0])) % 180),
        paired=True,
        hidden=first.hidden or second.hidden,
    )
    missing = 1.0 - float(there.mean())
    # Two ends that do not quite lie on one line leave that much room between them.
    room = max(abs(float(first.normal @ between)), abs(float(second.normal @ between)))
    apart, tilt, swing, rest = 0.0, 0.0, 0.0, np.inf
    if good.mean() >= 0.5:
        apart = float(np.median(np.abs(lags[good])))
        apart = apart if apart > room + 1.2 else max(0.0, apart - room)
        tilt, swing, rest = _course_of((np.arange(count)[good] + 0.5) * STEP, lags[good], gap)
    if rest >= 0.9 or (tilt < 0.9 and max(apart, swing) > 1.2):
        # Neither displaced as a whole nor at an angle: it may swing, and faster than from one such step
        # to the next.
        closely, beside, likeness = _followed(luma, first.entry, toward, gap, template, room)
        close = _swing_of(closely, beside) if likeness > _LIKE else 0.0
        # Two lines that lie beside one another, each straight, swing about the chord between them
        # by half of what they lie apart.
        if close > max(1.2, 0.75 * apart, swing, _BESIDE * room):
            return Break(
                "wave",
                close,
                likeness,
                trace=first.entry + closely[:, None] * toward + beside[:, None] * normal,
                deviation=(0.0, close, 0.0),
                **facts,
            )
        if (
            likeness > CERTAIN
            and not facts["hidden"]
            and min(first.length, second.length) >= LONG
            and (bent := bent_by(beside, gap) - room) > max(1.2, swing)
        ):
            return Break(
                "wave",
                bent,
                likeness,
                trace=first.entry + closely[:, None] * toward + beside[:, None] * normal,
                deviation=(0.0, bent, 0.0),
                **facts,
            )
    if missing > 0.5 and (
        min(first.length, second.length) < 0.45 * gap or not in_one_line(first, second)
    ):
        # Two short joints that happen to lie in one line need not have been one, nor two edges that
        # do not quite.
        return None
    # It goes on, beside its line: the chord is known from both sides, so this is its true offset.
    if good.mean() >= 0.5 and (apart > 1.2 or swing > 1.2 or missing < 0.5):
        sure = float(correlation.max(axis=1)[good].mean())
        # Two ends that were found a little off tilt the chord between them by as much.
        tilt = max(0.0, tilt - float(np.degrees(room / gap)))
        what, amount = "offset", apart
        if swing > max(1.2, 0.75 * apart, _BESIDE * room):
            what, amount = "wave", swing
        elif tilt > 0.9 and rest < 0.9 and np.tan(np.radians(tilt)) * gap > 2.2 * max(apart, 1.2):
            what, amount = "tilt", tilt
        return Break(what, amount, sure, trace=trace[good], deviation=(apart, swing, tilt), **facts)
    return Break("missing", missing, 1.0, trace=np.empty((0, 2)), **facts)


#: The likeness from which on a line that bends to one side only is known to be that line (of 350
#: clean results of photographs none has one that bends by more than 2.2 px), and how
#: far one may bend by nature, of its length.
CERTAIN, _BENT_BY = 0.98, 0.005

#: The likeness along a line that was followed closely from which it is known to be that line, and
#: what part of what speaks against straight on may speak against its way.
_LIKE, _LIKELIER = 0.8, 0.65

#: What a line that swings does to one side, it does to the other by at least this part.
_BOTH_WAYS = 0.35

#: What part of the room between two lines that do not quite lie in one a swing must exceed.
_BESIDE = 0.75

#: Steps at which a line is followed closely, the length of it that is averaged at each, how far it
#: may move from one to the next, pixels, and what moving costs of its likeness.
FINE, _OVER, _MOVE, _COST = 4, 6, 3, 0.03


def _followed(
    luma: np.ndarray,
    start: np.ndarray,
    toward: np.ndarray,
    gap: float,
    template: np.ndarray,
    room: float,
) -> tuple[np.ndarray, np.ndarray, float]:
    """The likeliest way of a line from one known end to the other (Viterbi 1967): it may wander,
    but not jump, and ends where it is known to.

    Args:
        room: how far beside their chord both ends may lie, pixels.

    Returns:
        (n,) pixels along the chord; (n,) pixels beside it; the median likeness along the way, 0..1,
        or 0 where straight on is about as likely.
    """
    count = int((gap - _OVER) // FINE)
    if count < 5:
        return np.empty(0), np.empty(0), 0.0
    patch = patch_of(luma, start, toward, 3.0, (count - 1) * FINE + _OVER)
    rows = np.stack([patch[k * FINE : k * FINE + _OVER].mean(axis=0) for k in range(count)])
    correlation, amplitude = sought(rows, template)
    worth = np.clip(correlation, 0, 1) * np.clip(amplitude / 0.45, 0, 1)
    lags = np.arange(worth.shape[1]) - LAGS
    far = np.where(np.abs(lags) > room + 1.5, -1.0, 0.0)
    moves = lags[None, :] - lags[:, None]
    cost = np.where(np.abs(moves) <= _MOVE, _COST * moves.astype(float) ** 2, np.inf)
    total, came = worth[0] + far, np.zeros(worth.shape, int)
    for row in range(1, count):
        options = total[:, None] - cost
        came[row] = options.argmax(axis=0)
        total = options.max(axis=0) + worth[row]
    best = np.zeros(count, int)
    best[-1] = int((total + far).argmax())
    for row in range(count - 1, 0, -1):
        best[row - 1] = came[row, best[row]]
    way, straight = worth[np.arange(count), best], worth[:, LAGS - 1 : LAGS + 2].max(axis=1)
    # On busy ground some other way is always a little likelier than straight on.
    likeness = float(np.median(way)) if 1 - way.mean() < _LIKELIER * (1 - straight.mean()) else 0.0
    return 3.0 + _OVER / 2 + FINE * np.arange(count), refined(correlation, best) - LAGS, likeness


def _swing_of(where: np.ndarray, lags: np.ndarray) -> float:
    """Half the way between extremes of a line that was followed closely, about its own straight
    course, pixels; zero for what only bends to one side, as many things do.
    """
    # One place that was recognised wrongly is no wave.
    calm = np.array([np.median(lags[max(0, k - 1) : k + 2]) for k in range(len(lags))])
    if min(calm.max(), -calm.min()) < _BOTH_WAYS * max(calm.max(), -calm.min()):
        return 0.0
    slope, shift = fitted(where, lags)
    return float(np.ptp(calm - (slope * where + shift))) / 2


def bent_by(lags: np.ndarray, gap: float) -> float:
    """How far a line that was followed closely bends away from the chord between its ends, pixels,
    less what over a long way is nothing; zero for one that lies beside it all
    along."""
    if not len(lags):
        return 0.0
    calm = np.array([np.median(lags[max(0, k - 1) : k + 2]) for k in range(len(lags))])
    far = float(np.abs(calm).max())
    begins, ends = (float(np.abs(lags[part]).mean()) for part in (slice(None, 2), slice(-2, None)))
    inner = calm[len(calm) // 6 : len(calm) - len(calm) // 6]
    return (
        max(0.0, far - _BENT_BY * gap)
        if max(begins, ends) <= max(1.5, 0.4 * far) or np.ptp(inner) >= 0.5 * far
        else 0.0
    )


def _course_of(where: np.ndarray, lags: np.ndarray, gap: float) -> tuple[float, float, float]:
    """How a followed line runs against its chord: (tilt in degrees, swing about its own straight
    course as half the way between extremes in pixels, and
    the largest departure from that course). Zeros where too few places were recognised."""
    if len(lags) < 4:
        return 0.0, 0.0, 0.0
    slope, shift = fitted(where, lags)
    off = lags - (slope * where + shift)
    # One step that was recognised wrongly is no wave: three neighbours must swing together.
    smooth = np.array([np.median(off[max(0, k - 1) : k + 2]) for k in range(len(off))])
    # And a board bends from step to step; what jumps, or jumped where it was not recognised for a
    # while, was mistaken for another line beside it.
    between = np.diff(where) / STEP
    bends = (
        len(lags) >= 6
        and np.ptp(where) > 0.7 * gap
        and float((np.abs(np.diff(off)) - 1.2 * (np.minimum(between, 3.0) - 1.0)).max()) < 4.8
    )
    swing = float(np.ptp(smooth)) / 2 if bends else 0.0
    return abs(float(np.degrees(np.arctan(slope)))), swing, float(np.abs(off).max())


def _one_side(luma: np.ndarray, ray: Ray) -> Break | None:
    count = int((min(ray.depth, DEEP) - 3) // STEP)
    if count < 3:
        return None
    rows = (
        patch_of(luma, ray.entry, ray.toward, 3.0, count * STEP)
        .reshape(count, STEP, -1)
        .mean(axis=1)
    )
    correlation, amplitude = sought(rows, ray.profile)
    best = correlation.argmax(axis=1)
    lags = refined(correlation, best) - LAGS
    sure = correlation.max(axis=1)
    # From one side a large jump is more likely another, parallel line.
    good = (sure > 0.8) & (amplitude[np.arange(count), best] > 0.55) & (np.abs(lags) < 6.5)
    where = 3.0 + (np.arange(count) + 0.5) * STEP
    angle = float(np.degrees(np.arctan2(ray.toward[1], ray.toward[0])) % 180)
    if good.sum() < 3 or not good[0]:
        there = np.clip(np.where(correlation > 0.45, amplitude, 0.0).max(axis=1), 0, 1)[:4]
        if ray.length < LONG or ray.contrast < 14:
            return None
        # A long, clear line that stops just where the fill begins: an outline placed anywhere else
        # hardly ever meets a line's end.
        return Break(
            "missing",
            1.0 - float(there.mean()),
            1.0,
            (ray.entry, ray.entry + where[min(3, count - 1)] * ray.toward),
            np.empty((0, 2)),
            ray.contrast,
            float(where[min(3, count - 1)]),
            angle,
            False,
        )
    slope, shift = np.polyfit(where[good], lags[good], 1)
    rest = float(np.abs(lags[good] - (slope * where[good] + shift)).max())
    if rest > 0.9:
        return None  # it wanders: another thing was followed
    middles = ray.entry + where[:, None] * ray.toward + lags[:, None] * ray.normal
    facts: dict[str, Any] = dict(
        sure=float(sure[good].mean()),
        ends=(ray.entry,),
        trace=middles[good],
        contrast=ray.contrast,
        length=float(where[-1]),
        angle=angle,
        paired=False,
    )
    turned = abs(float(np.degrees(np.arctan(slope))))
    # What a ray's own direction may be wrong by, from its length and a third of a pixel.
    doubt = np.degrees(0.35 / max(12.0, min(ray.length, 60)))
    if turned > 2 * doubt + 1.2:
        if ray.length < 32 or good.sum() < 4:
            return None
        return Break(
            "kink", max(0.0, turned - doubt), signed=float(np.degrees(np.arctan(slope))), **facts
        )
    jump = float(np.median(lags[good]))
    return Break(
        "offset",
        abs(jump),
        signed=jump if ray.toward[1] > 0 or (ray.toward[1] == 0 and ray.toward[0] > 0) else -jump,
        **facts,
    )


def breaks_of(segments: np.ndarray, area: np.ndarray, luma: np.ndarray) -> list[Break]:
    """Every line followed into an area, whether it breaks or not (then its amount is small)."""
    rays = rays_of(segments, area, luma)
    found, paired = [], set()
    for first, second in pairs(rays):
        known = _along_pair(luma, area, first, second)
        if known is not None:
            found.append(known)
            paired |= {id(first), id(second)}
    for ray in [ray for ray in rays if id(ray) not in paired and 14 <= ray.depth < 390]:
        beyond = goes_on_beyond(luma, area, ray)
        for first, second in pairs([ray, beyond]) if beyond is not None else ():
            known = _along_pair(luma, area, first, second)
            if known is not None:
                found.append(known)
                paired.add(id(ray))
    return found + [
        one for ray in rays if id(ray) not in paired and (one := _one_side(luma, ray)) is not None
    ]
