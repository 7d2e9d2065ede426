"""One flaw, one finding: where two kinds light up on the same stretch of rim, the better explanation keeps it."""

from __future__ import annotations

import numpy as np

from .report import Reading


def _step_and_ring(evidence: dict) -> tuple[float, float]:
    """From the mean profile across a stretch: the step that persists far from the boundary, and the bulge near it."""
    profile = np.stack([np.asarray(evidence["profile"][name], float) for name in ("lightness", "a", "b")], -1)
    middle = len(profile) // 2
    inside, outside = profile[middle - 20:middle - 9].mean(0), profile[middle + 10:middle + 21].mean(0)
    step = float(np.linalg.norm(inside - outside))
    base = np.where(np.arange(len(profile))[:, None] < middle, inside, outside)
    near = profile[middle - 8:middle + 9] - base[middle - 8:middle + 9]
    ring = float(np.sort(np.linalg.norm(near, axis=1))[-4:].mean())
    return step, ring


def _overlap(first: Reading, second: Reading) -> float:
    ax, ay, aw, ah = first.bbox
    bx, by, bw, bh = second.bbox
    w, h = min(ax + aw, bx + bw) - max(ax, bx), min(ay + ah, by + bh) - max(ay, by)
    return max(0.0, w) * max(0.0, h) / max(1.0, min(aw * ah, bw * bh))


#: (winner, loser, least share of the smaller's box that they share): the first explains the second at one place.
_EXPLAINS = (
    ("untouched", "repeat", 0.0), ("untouched", "seam", 0.0), ("untouched", "halo", 0.0), ("untouched", "smear", 0.0), ("untouched", "line", 0.0),
    # Where texture is washed out, its end at the rim reads as a cut-out edge, and smooth patches match each other.
    ("smear", "seam", 0.5), ("smear", "repeat", 0.5),
)


def _explained(kept: list[Reading]) -> None:
    """Take out what a stronger reading of another kind explains; a step that stands out more than the smear stays a seam."""
    for winner_kind, loser_kind, share in _EXPLAINS:
        for winner in [r for r in kept if r.kind == winner_kind]:
            for loser in [r for r in kept if r.kind == loser_kind]:
                if loser.evidence.get("what") == "step" and winner_kind == "smear":
                    continue
                if _overlap(winner, loser) >= share and winner.score >= 0.8 * loser.score:
                    winner.runner_up = winner.runner_up or loser.kind
                    kept.remove(loser)


def arbitrate(readings: list[Reading]) -> list[Reading]:
    """Drop readings that another explains better; the winner names the loser's kind as its runner-up.

    Args:
        readings: of one region, those over the reporting threshold.

    Seam against halo: a ring that outweighs the step persisting behind it is a halo, else a seam. The same kind twice at
    one place is one finding.
    """
    kept = list(readings)
    for halo in [r for r in readings if r.kind == "halo"]:
        for seam in [r for r in readings if r.kind == "seam"]:
            if halo not in kept or seam not in kept or _overlap(halo, seam) < 0.4:
                continue
            step, ring = _step_and_ring(halo.evidence)
            winner, loser = (halo, seam) if ring > 1.15 * step and halo.score > 0.6 * seam.score else (seam, halo)
            winner.runner_up = loser.kind
            kept.remove(loser)
    _explained(kept)
    final: list[Reading] = []
    for reading in sorted(kept, key=lambda r: -r.score):
        if not any(other.kind == reading.kind and reading.kind != "repeat" and _overlap(other, reading) > 0.6 for other in final):
            final.append(reading)
    return final
