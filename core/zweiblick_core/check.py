"""The one pass: read, register, window, measure, calibrate, arbitrate, report."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from functools import partial

import cv2
import numpy as np

from . import __version__
from .arbitrate import arbitrate
from .carriers import Carriers, measure_carriers
from .errors import Refused
from .grouping import group
from .kinds import REGISTRY, untouched
from .reading import Picture, eight_bit
from .regions.masks import Region
from .registering import register
from .report import KINDS, Abstention, Finding, Reading, RegionReport, Report
from .visibility import NATIVE, Size, visibility, word
from .windows import Window, luma_of, open_window

REPORTED = 0.5
#: Told of each step: (part done 0..1, words).
Progress = Callable[[float, str], None]


def check(original: Picture, result: Picture, regions: list[Region], size: Size = NATIVE, progress: Progress | None = None,
          reach: int | None = None) -> Report:
    """Examine one attempt.

    Args:
        original, result: decoded pictures.
        regions: where something was to be removed; their masks lie in the original's frame.
        size: the delivery size that severities are stated for.
        progress: called after each region and kind.

    Returns:
        The report. Pictures that cannot be brought into register give one without regions, with the reason.

    Raises:
        Refused: a region outside the picture.
    """
    told = progress or (lambda part, words: None)
    frame = original.pixels.shape[:2]
    for region in regions:
        x, y, width, height = region.bbox
        if x < 0 or y < 0 or x + width > frame[1] or y + height > frame[0]:
            raise Refused(f"region {region.id}: reaches beyond the picture")
    outside = np.ones(frame, bool)
    for region in regions:
        x, y, width, height = region.bbox
        outside[y:y + height, x:x + width] &= ~region.mask
    told(0.02, "register")
    alignment = register(original, result, outside)
    told(0.06, "carriers")
    carriers = measure_carriers(original, result, _grey(original), _grey(result))
    facts = {"original": original.facts(), "result": result.facts()}
    described = {**asdict(size), "scale": size.scale(original.width, original.height), "pixels_per_degree": size.pixels_per_degree}
    report = Report(__version__, facts, carriers.facts(), list(REGISTRY), described, asdict(alignment), 0.0)
    if alignment.kind == "unmatched":
        return report
    for number, region in enumerate(regions):
        start = 0.1 + 0.9 * number / len(regions)
        window = open_window(original, result, region, regions) if reach is None else open_window(original, result, region, regions, reach)
        part_of = partial(_part, told, start, 0.9 / len(regions))
        report.regions.append(_judge(window, carriers, size, (original.width, original.height), part_of))
    report.overall = float(np.prod([region.overall for region in report.regions]))
    told(1.0, "done")
    return report


def _part(told: Progress, start: float, span: float, part: float, words: str) -> None:
    told(start + span * part, words)


def _grey(picture: Picture) -> np.ndarray:
    """Luma of at most about 4 megapixels' worth of whole block rows: carriers are the same all over a picture."""
    rows = picture.height // 32
    every = max(1, round(picture.width * picture.height / 4_000_000))
    if every == 1 or rows < 8:
        return luma_of(eight_bit(picture.pixels))
    strips = [picture.pixels[r * 32:(r + 1) * 32] for r in range(0, rows, every)]
    return np.concatenate([luma_of(eight_bit(strip)) for strip in strips])


def _judge(window: Window, carriers: Carriers, size: Size, picture: tuple[int, int], told: Progress) -> RegionReport:
    scores: dict[str, float] = {kind: 0.0 for kind in KINDS if kind != "overreach"}
    abstained: dict[str, str] = {}
    reported: list[Reading] = []
    if not window.changed.any():
        # Nothing was done here: the measures would judge the original against itself.
        abstained = {kind: "nothing changed in this region" for kind in REGISTRY if kind != "untouched"}
        outcome = untouched.measure(window, carriers)
        assert not isinstance(outcome, Abstention)
        scores["untouched"], reported = outcome[0].score, outcome
    else:
        for number, (kind, measure) in enumerate(REGISTRY.items()):
            told(number / len(REGISTRY), kind)
            outcome = measure(window, carriers)
            if isinstance(outcome, Abstention):
                abstained[kind] = outcome.reason
                continue
            scores[kind] = max((reading.score for reading in outcome), default=0.0)
            reported += [reading for reading in outcome if reading.score >= REPORTED]
    findings = [_finding(reading, size, picture) for reading in arbitrate(reported)]
    findings.sort(key=lambda f: -f.severity * f.confidence)
    groups = group(findings, window.region.bbox)
    return RegionReport(window.region.id, window.region.bbox, backdrop(window), overall(findings, scores), scores, abstained, findings, groups)


def confidence(score: float) -> float:
    """The probability that a person would agree, from the score: a fixed logistic curve, not calibrated on answers yet."""
    return float(1 / (1 + np.exp(-(score - 0.55) * 7.0)))


def _finding(reading: Reading, size: Size, picture: tuple[int, int]) -> Finding:
    severity = visibility(reading.signal, size, picture)
    return Finding(reading.kind, reading.runner_up, reading.score, confidence(reading.score), severity, word(severity), reading.bbox, reading.polygon,
                   reading.signal, reading.measure, reading.evidence)


def overall(findings: list[Finding], scores: dict[str, float]) -> float:
    """1 = holds everywhere. Each finding takes its confidence times its severity (a third of it even where it is not visible);
    readings below the threshold only break ties, a twentieth at most."""
    holds = 1.0
    for finding in findings:
        holds *= 1 - finding.confidence * (0.3 + 0.65 * finding.severity)
    return holds * (1 - 0.05 * float(np.mean([min(score, REPORTED) / REPORTED for score in scores.values()])))


def backdrop(window: Window) -> str:
    """What lies behind the region, by plain measures of the ring around it: gradient, fine texture, straight structure, organic, crowded, frame edge."""
    x, y, width, height = window.region.bbox
    if x == 0 or y == 0 or x + width == window.frame[1] or y + height == window.frame[0]:
        return "frame edge"
    near = cv2.dilate(window.mask.astype(np.uint8), np.ones((61, 61), np.uint8)).astype(bool) & ~window.elsewhere
    if near.sum() < 200:
        return "crowded"
    luma = cv2.GaussianBlur(window.luma_original, (0, 0), 1.2)
    gx, gy = cv2.Sobel(luma, cv2.CV_32F, 1, 0, scale=0.125), cv2.Sobel(luma, cv2.CV_32F, 0, 1, scale=0.125)
    strength = np.hypot(gx, gy)[near]
    if np.percentile(strength, 80) < 2.0:
        return "plain gradient"
    # Structure tensor's double angle: gradients that agree (or stand at right angles) mean straight structure.
    angle = np.arctan2(gy, gx)[near]
    weight = strength ** 2
    two, four = abs((weight * np.exp(2j * angle)).sum() / weight.sum()), abs((weight * np.exp(4j * angle)).sum() / weight.sum())
    if max(two, four) > 0.35:
        return "straight structure"
    return "fine texture" if np.percentile(strength, 95) < 5 * np.median(strength) + 4 else "organic"
