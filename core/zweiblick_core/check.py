"""The one pass: read, register, window, measure, calibrate, arbitrate, report."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, replace
from functools import cache, partial

import cv2
import numpy as np
from threadpoolctl import ThreadpoolController

from . import __version__, overreach
from .arbitrate import arbitrate
from .base import grading_of
from .carriers import Carriers, measure_carriers
from .errors import Refused
from .grouping import group, in_order
from .kinds import REGISTRY, untouched
from .kinds import Measure as Measured
from .kinds.detail import outlined
from .planes import luma_of
from .reading import Picture
from .regions.masks import Region
from .registering import Alignment, Pair, brought_together, register
from .report import KINDS, Abstention, Finding, Reading, RegionReport, Report, Signal
from .visibility import NATIVE, Size, visibility, word
from .windows import Window, open_window, reach_of

#: From this score on a reading is a finding: there it is as likely real as not (`confidence`).
REPORTED = 0.64
#: A hint is reported from this score on: it says itself how little it is sure of.
HINTED = 0.5
#: Told of each step: (part done 0..1, words).
Progress = Callable[[float, str], None]


def check(
    original: Picture,
    result: Picture,
    regions: list[Region],
    size: Size = NATIVE,
    progress: Progress | None = None,
    reach: int | None = None,
    kinds: tuple[str, ...] | None = None,
    alignment: Alignment | None = None,
) -> Report:
    """Examine one attempt.

    Args:
        original, result: decoded pictures.
        regions: where something was to be removed; their masks lie in the original's frame.
        size: the delivery size that severities are stated for.
        progress: called after each region and kind.
        reach: how far around a region is looked, pixels; None: `windows.reach_of`.
        kinds: examine only these; None: all there are.
        alignment: how the result lies to the original, if that is known; None: they are registered.

    Returns:
        The report. Pictures that cannot be brought into register give one without regions, with the
        reason.

    Raises:
        Refused: a region outside the picture.
    """
    frame = original.pixels.shape[:2]
    for region in regions:
        x, y, width, height = region.bbox
        if x < 0 or y < 0 or x + width > frame[1] or y + height > frame[0]:
            raise Refused(f"region {region.id}: reaches beyond the picture")
    # All products of matrices here are small: further threads of a linear algebra library would
    # only wait for one another, a fifth of all time.
    with _libraries().limit(limits=1, user_api="blas"):
        return _checked(
            original,
            result,
            regions,
            size,
            progress or (lambda part, words: None),
            reach,
            kinds,
            alignment,
        )


@cache
def _libraries() -> ThreadpoolController:
    """The linear algebra libraries that numpy and scipy have loaded."""
    return ThreadpoolController()


def _checked(
    original: Picture,
    result: Picture,
    regions: list[Region],
    size: Size,
    progress: Progress,
    reach: int | None,
    kinds: tuple[str, ...] | None,
    alignment: Alignment | None,
) -> Report:
    frame = original.pixels.shape[:2]
    outside = np.ones(frame, bool)
    for region in regions:
        x, y, width, height = region.bbox
        outside[y : y + height, x : x + width] &= ~region.mask
    progress(0.02, "register")
    if alignment is None:
        alignment = register(original, result, outside)
    progress(0.06, "carriers")
    carriers = measure_carriers(original, result, _grey(original), _grey(result))
    facts = {"original": original.facts(), "result": result.facts()}
    described = {
        **asdict(size),
        "scale": size.scale(original.width, original.height),
        "pixels_per_degree": size.pixels_per_degree,
    }
    examined = {
        kind: measure for kind, measure in REGISTRY.items() if kinds is None or kind in kinds
    }
    wide = kinds is None or "overreach" in kinds
    report = Report(
        __version__,
        facts,
        carriers.facts(),
        [*examined, *(["overreach"] if wide else [])],
        described,
        asdict(alignment),
        0.0,
    )
    if alignment.kind == "unmatched":
        return report
    pair = brought_together(original, result, alignment)
    here = {region.id: pair.region(region) for region in regions}
    present = [region for region in here.values() if region is not None]
    keep = np.ones(pair.original.pixels.shape[:2], bool)
    for region in present:
        x, y, width, height = region.bbox
        keep[y : y + height, x : x + width] &= ~region.mask
    if pair.valid is not None:
        keep &= pair.valid
    progress(0.08, "base")
    grading = grading_of(pair.original, pair.result, keep)
    if grading is not None:
        report.base = grading.facts()
        pair = replace(pair, original=grading.applied(pair.original))
    report.facts = facts_of(alignment, regions, here)
    frame_size = (original.width, original.height)
    for number, region in enumerate(regions):
        start = 0.1 + 0.8 * number / len(regions)
        judged = here[region.id]
        if judged is None:
            report.regions.append(_cropped_away(region, examined))
            continue
        window = open_window(
            pair, judged, present, reach_of(judged) if reach is None else reach, grading is not None
        )
        part_of = partial(_part, progress, start, 0.8 / len(regions))
        report.regions.append(_judge(window, region, carriers, size, frame_size, part_of, examined))
    if wide:
        progress(0.9, "overreach")
        readings = overreach.measure(
            pair.original, pair.result, keep, carriers, pair.resampled or grading is not None
        )
        readings = [_in_original(reading, pair) for reading in readings]
        findings = [
            _finding(reading, size, frame_size, pair.scale)
            for reading in readings
            if is_reported(reading)
        ]
        findings.sort(key=lambda f: -f.severity * f.confidence)
        report.overreach = {
            "score": max((reading.score for reading in readings), default=0.0),
            "findings": findings,
            "groups": group(findings, (0, 0, *frame_size)),
        }
    report.overall = _of_all(report)
    progress(1.0, "done")
    return report


def _of_all(report: Report) -> float:
    # A change outside takes its part of the whole as a finding does of its region.
    regions = float(np.prod([region.overall for region in report.regions]))
    return regions * _holds(report.overreach["findings"])


def judged_against(
    agreed: Picture,
    report: Report,
    result: Picture,
    regions: list[Region],
    size: Size = NATIVE,
    alignment: Alignment | None = None,
) -> Report:
    """A report with its overreach judged against an agreed base, where the result is nearer to it
    than to the original.

    Args:
        agreed: a result of the original's frame, whose changes outside the regions are wanted.
        report: of the same result against the original; the rest as for `check`.

    Raises:
        Refused: the base has another frame than the original.
    """
    frame = report.inputs["original"]
    if (agreed.width, agreed.height) != (frame["width"], frame["height"]):
        raise Refused("the agreed base has another frame than the original")
    found = report.overreach["findings"]
    if not found:
        return report
    known = check(agreed, result, regions, size, kinds=("overreach",), alignment=alignment)
    if _holds(known.overreach["findings"]) <= _holds(found):
        return report
    judged = replace(report, overreach={**known.overreach, "against": "agreed base"})
    return replace(judged, overall=_of_all(judged))


def facts_of(
    alignment: Alignment, regions: list[Region], here: dict[str, Region | None]
) -> list[dict[str, object]]:
    """What can be said about the attempt before any flaw: that it was cropped, and which regions
    that touches.
    """
    facts: list[dict[str, object]] = []
    if alignment.covers < 0.9995:
        gone = [region.id for region in regions if here[region.id] is None]
        cut = [
            region.id
            for region in regions
            if (found := here[region.id]) is not None
            and found.mask.sum() < 0.97 * region.mask.sum() * alignment.scale**2
        ]
        facts.append(
            {
                "fact": "cropped",
                "covers": alignment.covers,
                "regions_gone": gone,
                "regions_cut": cut,
                "words": f"the attempt shows {alignment.covers:.0%} of the original; if it was cropped before the removal, the fill had less to go on",
            }
        )
    return facts


def _cropped_away(region: Region, examined: dict[str, Measured]) -> RegionReport:
    reason = "the region was cropped away in this attempt"
    return RegionReport(
        region.id,
        region.bbox,
        "frame edge",
        1.0,
        {kind: 0.0 for kind in KINDS if kind != "overreach"},
        {kind: reason for kind in examined},
        [],
        [],
    )


def _in_original(reading: Reading, pair: Pair) -> Reading:
    """A reading of the whole frame, brought to the original's coordinates."""
    if pair.back is None:
        return reading
    polygon = pair.to_original(np.array(reading.polygon))
    (x, y), (x1, y1) = polygon.min(axis=0), polygon.max(axis=0)
    return replace(
        reading,
        polygon=np.round(polygon, 1).tolist(),
        bbox=[float(x), float(y), float(x1 - x), float(y1 - y)],
    )


def _part(progress: Progress, start: float, span: float, part: float, words: str) -> None:
    progress(start + span * part, words)


def _grey(picture: Picture) -> np.ndarray:
    """Luma of at most about 4 megapixels' worth of whole block rows: carriers are the same all over
    a picture.
    """
    rows = picture.height // 32
    every = max(1, round(picture.width * picture.height / 4_000_000))
    if every == 1 or rows < 8:
        return luma_of(picture.pixels)
    strips = [picture.pixels[r * 32 : (r + 1) * 32] for r in range(0, rows, every)]
    return np.concatenate([luma_of(strip) for strip in strips])


def _judge(
    window: Window,
    region: Region,
    carriers: Carriers,
    size: Size,
    picture: tuple[int, int],
    progress: Progress,
    examined: dict[str, Measured],
) -> RegionReport:
    scores: dict[str, float] = {kind: 0.0 for kind in KINDS if kind != "overreach"}
    abstained: dict[str, str] = {}
    reported: list[Reading] = []
    unreported: list[Reading] = []
    if not window.changed.any():
        # Nothing was done here: the measures would judge the original against itself.
        abstained = {
            kind: "nothing changed in this region" for kind in examined if kind != "untouched"
        }
        outcome = untouched.measure(window, carriers)
        assert not isinstance(outcome, Abstention)
        scores["untouched"], reported = outcome[0].score, outcome
    else:
        for number, (kind, measure) in enumerate(examined.items()):
            progress(number / len(examined), kind)
            outcome = measure(window, carriers)
            if isinstance(outcome, Abstention):
                abstained[kind], scores[kind] = outcome.reason, min(outcome.leaning, 0.49)
                continue
            scores[kind] = max((reading.score for reading in outcome), default=0.0)
            for reading in outcome:
                (reported if is_reported(reading) else unreported).append(reading)
    scale = window.pair.scale if window.pair else 1.0
    kept = arbitrate(reported, unreported)
    for reading in kept:
        if reading.kind == "residue" and reading.evidence.get("type") == "rim":
            # It was found by the thing's edge, and is all that lies within.
            (x, y, w, h), ring = outlined(window, window.filled.astype(np.uint8))
            reading.bbox, reading.polygon = window.box_to_frame(x, y, w, h), window.to_frame(ring)
    findings = in_order([_finding(reading, size, picture, scale) for reading in kept])
    for finding in findings:
        # A flaw that several kinds saw counts under the name it got.
        scores[finding.kind] = max(scores[finding.kind], finding.score)
    groups = group(findings, region.bbox)
    return RegionReport(
        region.id,
        region.bbox,
        backdrop(window),
        overall(findings, scores),
        scores,
        abstained,
        findings,
        groups,
    )


#: Confidence is a logistic curve over the score's log odds (Platt 1999), fitted on the training
#: photographs by `benchmarks/reliability.py`.
_SURE = (-0.6, 1.05, 4.0)
#: A hint is worth less than its score.
_HINTS = {"shadow": -1.6}


def confidence(score: float, kind: str = "") -> float:
    """The probability that a person would agree, 0..1, from the score 0..1."""
    some = min(max(score, 1e-4), 1 - 1e-4)
    odds = min(float(np.log(some / (1 - some))), _SURE[2])
    return float(1 / (1 + np.exp(-(_SURE[0] + _SURE[1] * odds + _HINTS.get(kind, 0.0)))))


def is_reported(reading: Reading) -> bool:
    """Whether a reading is a finding: more likely there than not, or a hint."""
    return reading.score >= (HINTED if reading.kind in _HINTS else REPORTED)


def _finding(reading: Reading, size: Size, picture: tuple[int, int], scale: float = 1.0) -> Finding:
    signal = reading.signal
    if scale != 1.0:
        # Signals are stated in the original's pixels, whatever frame they were seen in.
        signal = Signal(
            tuple((f * scale, light, chroma) for f, light, chroma in signal.bands),
            signal.extent / scale,
            signal.area / scale**2,
            signal.offset / scale,
        )
    severity = visibility(signal, size, picture)
    return Finding(
        reading.kind,
        reading.runner_up,
        reading.score,
        confidence(reading.score, reading.kind),
        severity,
        word(severity),
        reading.bbox,
        reading.polygon,
        signal,
        reading.measure,
        reading.evidence,
    )


def overall(findings: list[Finding], scores: dict[str, float]) -> float:
    """1 = holds everywhere. Each finding takes its confidence times its severity (a third of it
    even where it is not visible);
    readings below the threshold only break ties, a twentieth at most."""
    return _holds(findings) * (
        1 - 0.05 * float(np.mean([min(score, REPORTED) / REPORTED for score in scores.values()]))
    )


def _holds(findings: list[Finding]) -> float:
    holds = 1.0
    for finding in findings:
        holds *= 1 - finding.confidence * (0.3 + 0.65 * finding.severity)
    return holds


def backdrop(window: Window) -> str:
    """What lies behind the region, by plain measures of the ring around it: gradient, fine texture,
    straight structure, organic, crowded, frame edge.
    """
    x, y, width, height = window.region.bbox
    if x == 0 or y == 0 or x + width == window.frame[1] or y + height == window.frame[0]:
        return "frame edge"
    left, top = window.origin
    crop = (
        slice(max(0, y - top - 34), y - top + height + 34),
        slice(max(0, x - left - 34), x - left + width + 34),
    )
    near = (
        cv2.dilate(
            np.ascontiguousarray(window.mask[crop]).view(np.uint8), np.ones((61, 61), np.uint8)
        ).astype(bool)
        & ~window.elsewhere[crop]
    )
    if near.sum() < 200:
        return "crowded"
    luma = cv2.GaussianBlur(window.luma_original[crop], (0, 0), 1.2)
    gx, gy = (
        cv2.Sobel(luma, cv2.CV_32F, 1, 0, scale=0.125),
        cv2.Sobel(luma, cv2.CV_32F, 0, 1, scale=0.125),
    )
    # Some ten thousand places know what all do.
    places = np.flatnonzero(near)[:: max(1, int(near.sum()) // 20_000)]
    gx, gy = gx.ravel()[places], gy.ravel()[places]
    strength = np.hypot(gx, gy)
    if np.percentile(strength, 80) < 2.0:
        return "plain gradient"
    # Structure tensor's double angle: gradients that agree (or stand at right angles) mean straight
    # structure.
    angle = np.arctan2(gy, gx)
    weight = strength**2
    two, four = (
        abs((weight * np.exp(2j * angle)).sum() / weight.sum()),
        abs((weight * np.exp(4j * angle)).sum() / weight.sum()),
    )
    if max(two, four) > 0.35:
        return "straight structure"
    return (
        "fine texture" if np.percentile(strength, 95) < 5 * np.median(strength) + 4 else "organic"
    )
