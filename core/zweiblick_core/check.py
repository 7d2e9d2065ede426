"""The one pass: read, register, window, measure, calibrate, arbitrate, report."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, replace
from functools import cache, partial

import numpy as np
from threadpoolctl import ThreadpoolController

from . import __version__, overreach
from .align import Alignment, Pair, brought_together, register
from .errors import Refused
from .evidence import Departs, Rim
from .explaining.arbitrate import arbitrate
from .explaining.departing import with_departures
from .features.context import context_of
from .features.detail.drawn import outlined
from .grouping import group, in_order
from .io import Picture
from .kinds import REGISTRY, Measure, untouched
from .regions.masks import Region
from .report import KINDS, Abstention, Finding, Reading, RegionReport, Report, Signal
from .scene.backdrop import backdrop
from .scene.carriers import Carriers, measure_carriers
from .scene.grading import grading_of
from .scene.look import Scene
from .scene.planes import luma_of
from .scene.window import Window, open_window, reach_of
from .scoring import holds, is_reported, of_all, overall, weigh
from .visibility import NATIVE, Size, visibility, word

#: Called after each step: (part done 0..1, words).
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
    frame_size, scene = (original.width, original.height), Scene(pair)
    for number, region in enumerate(regions):
        start = 0.1 + 0.8 * number / len(regions)
        judged = here[region.id]
        if judged is None:
            report.regions.append(_cropped_away(region, examined))
            continue
        window = open_window(
            scene,
            judged,
            present,
            reach_of(judged) if reach is None else reach,
            grading is not None,
        )
        part_of = partial(_part, progress, start, 0.8 / len(regions))
        report.regions.append(_judge(window, region, carriers, size, frame_size, part_of, examined))
    if wide:
        progress(0.9, "overreach")
        readings = overreach.measure(
            pair.original, pair.result, keep, carriers, pair.resampled or grading is not None
        )
        readings = [_in_original(reading, pair) for reading in readings]
        weigh(readings, {}, None)
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
    report.overall = of_all(report)
    progress(1.0, "done")
    return report


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
    if holds(known.overreach["findings"]) <= holds(found):
        return report
    judged = replace(report, overreach={**known.overreach, "against": "agreed base"})
    return replace(judged, overall=of_all(judged))


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


def _cropped_away(region: Region, examined: dict[str, Measure]) -> RegionReport:
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


@dataclass(frozen=True)
class Measured:
    """What every kind saw in one region, before anything is decided.

    Attributes:
        readings: of all kinds, also those that are far from being reported; weighed.
        abstained: kinds that cannot tell here.
    """

    readings: list[Reading]
    abstained: dict[str, Abstention]


def measured(
    window: Window,
    carriers: Carriers,
    examined: Mapping[str, Measure],
    progress: Progress = lambda part, words: None,
) -> Measured:
    """Ask every kind about one region."""
    if not window.changed.any():
        # Nothing was done here: the measures would judge the original against itself.
        unchanged = untouched.measure(window, carriers)
        assert not isinstance(unchanged, Abstention)
        weigh(unchanged, {}, None)
        nothing = Abstention("nothing changed in this region")
        return Measured(unchanged, {kind: nothing for kind in examined if kind != "untouched"})
    readings: list[Reading] = []
    abstained: dict[str, Abstention] = {}
    for number, (kind, measure) in enumerate(examined.items()):
        progress(number / len(examined), kind)
        outcome = measure(window, carriers)
        if isinstance(outcome, Abstention):
            abstained[kind] = outcome
        else:
            readings += outcome
    # Where only some kinds were asked, nobody knows what the others would have seen.
    weigh(
        readings,
        abstained,
        context_of(window, carriers) if len(examined) == len(REGISTRY) else None,
    )
    return Measured(readings, abstained)


def found(
    window: Window, readings: list[Reading], size: Size, picture: tuple[int, int]
) -> list[Finding]:
    """What is reported of all that was seen in a region, the most pressing first.

    Args:
        readings: as of `measured`; their names and scores may be changed.
        size: the delivery size. picture: (width, height) of the original.
    """
    scale = window.pair.scale if window.pair else 1.0
    departing = [reading for reading in readings if isinstance(reading.evidence, Departs)]
    others = [reading for reading in readings if not isinstance(reading.evidence, Departs)]
    kept = with_departures(
        arbitrate(
            [reading for reading in others if is_reported(reading)],
            [reading for reading in others if not is_reported(reading)],
        ),
        [reading for reading in departing if is_reported(reading)],
    )
    for reading in kept:
        if reading.kind == "residue" and isinstance(reading.evidence, Rim):
            # It was found by the thing's edge, and is all that lies within.
            (x, y, w, h), ring = outlined(window, window.filled.astype(np.uint8))
            reading.bbox, reading.polygon = window.box_to_frame(x, y, w, h), window.to_frame(ring)
    return in_order([_finding(reading, size, picture, scale) for reading in kept])


def _judge(
    window: Window,
    region: Region,
    carriers: Carriers,
    size: Size,
    picture: tuple[int, int],
    progress: Progress,
    examined: Mapping[str, Measure],
) -> RegionReport:
    seen = measured(window, carriers, examined, progress)
    scores: dict[str, float] = {kind: 0.0 for kind in KINDS if kind != "overreach"}
    for kind, abstention in seen.abstained.items():
        scores[kind] = min(abstention.leaning, 0.49)
    for reading in seen.readings:
        scores[reading.kind] = max(scores[reading.kind], reading.score)
    findings = found(window, seen.readings, size, picture)
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
        {kind: abstention.reason for kind, abstention in seen.abstained.items()},
        findings,
        groups,
    )


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
    assert reading.likely is not None
    return Finding(
        reading.kind,
        reading.runner_up,
        reading.score,
        reading.likely,
        severity,
        word(severity),
        reading.bbox,
        reading.polygon,
        signal,
        reading.measure,
        reading.evidence,
    )
