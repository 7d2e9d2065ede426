"""What is said of copied patches: where they lie, where they come from, how they catch the eye."""

from __future__ import annotations

import cv2
import numpy as np

from ...evidence import Copy
from ...report import Measure, Natural, Reading, Signal
from ...scene.window import Window
from .matches import Match, offset_of
from .turned import Similar


def turned_reading(window: Window, found: Similar, score: float, natural: Natural) -> Reading:
    """Of a copy that was turned, scaled or mirrored, or of a piece."""
    area = found.area if found.area.any() else window.filled
    ys, xs = np.nonzero(area)
    x, y, w, h = int(xs.min()), int(ys.min()), int(np.ptp(xs)) + 1, int(np.ptp(ys)) + 1
    corners = (
        np.array([[x, y, 1], [x + w, y, 1], [x + w, y + h, 1], [x, y + h, 1]], float)
        @ found.matrix.T
    )
    (sx, sy), (sx1, sy1) = corners.min(axis=0), corners.max(axis=0)
    hull = cv2.convexHull(np.stack([xs, ys], -1).astype(np.int32))[:, 0]
    ring = cv2.approxPolyDP(hull[:, None], 1.5, True)[:, 0] + 0.5
    if len(ring) < 3:
        ring = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float)
    inside = window.filled[max(0, int(sy)) : max(1, int(sy1)), max(0, int(sx)) : max(1, int(sx1))]
    turned = bool(found.degrees or found.scale != 1)
    return Reading(
        "repeat",
        score,
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(contrast(window, x, y, w, h), float(max(w, h)), float(area.sum())),
        Measure("agreement of the grain", found.agreement, "1 = the same pixels", natural),
        Copy(
            mirrored=found.mirrored,
            offset_px=[float((sx + sx1) / 2 - x - w / 2), float((sy + sy1) / 2 - y - h / 2)],
            copy=window.box_to_frame(x, y, w, h),
            source=window.box_to_frame(sx, sy, sx1 - sx, sy1 - sy),
            source_polygon=window.to_frame(corners),
            source_inside_region=bool(inside.size and inside.mean() > 0.5),
            patches=found.matches,
            agreement=found.agreement,
            judged_px=found.judged,
            turned_degrees=found.degrees if turned else None,
            scale=found.scale if turned else None,
        ),
    )


def contrast(
    window: Window, x: int, y: int, w: int, h: int
) -> tuple[tuple[float, float, float], ...]:
    """What catches the eye is the repeated structure itself: half its contrast per octave, which is
    what a second look compares.
    """
    bands, finer = [], window.lab_result[..., 0][y : y + h, x : x + w]
    for octave in range(1, 6):
        coarser = cv2.GaussianBlur(finer, (0, 0), 0.5 * 2.0**octave)
        bands.append((2.0**-octave, 0.5 * float((finer - coarser).std()), 0.0))
        finer = coarser
    return tuple(bands)


def touches(window: Window, match: Match) -> bool:
    """Whether a control's counterpart lies in a fill: then it is the copy's source and no control."""
    x, y = match.source
    return bool(window.filled[y : y + match.side, x : x + match.side].mean() > 0.1)


def by_offset(matches: list[Match], scores: np.ndarray) -> list[list[int]]:
    """Tiles over the threshold that share an offset within 2 px (or a mirror axis) are one copy."""
    groups: list[tuple[tuple[bool, int, int], list[int]]] = []
    for i in np.argsort(-scores):
        if scores[i] < 0.5:
            break
        match = matches[i]
        key = offset_of(match)
        for other, members in groups:
            if other[0] == key[0] and abs(other[1] - key[1]) <= 2 and abs(other[2] - key[2]) <= 2:
                members.append(int(i))
                break
        else:
            groups.append((key, [int(i)]))
    return [members for _, members in groups]


def copied_area(window: Window, fine: np.ndarray, matches: list[Match]) -> np.ndarray:
    """Pixels of the copy: where the grain agrees locally around the matched tiles; bool like the
    window.
    """
    first = matches[0]
    side = first.side
    x0, y0 = min(m.at[0] for m in matches) - side // 2, min(m.at[1] for m in matches) - side // 2
    x1, y1 = (
        max(m.at[0] for m in matches) + side * 3 // 2,
        max(m.at[1] for m in matches) + side * 3 // 2,
    )
    height, width = fine.shape
    mirrored, dx, dy = offset_of(first)
    # Below the window a far source may lie.
    x0, y0, x1, y1 = (
        max(0, x0),
        max(0, y0, -dy),
        min(width, x1),
        min(window.mask.shape[0], y1, height - dy),
    )
    if mirrored:  # the column x of the copy comes from dx + side - 1 - x
        x0, x1 = max(x0, dx + side - width), min(x1, dx + side)
    else:
        x0, x1 = max(x0, -dx), min(x1, width - dx)
    copied = np.zeros(window.mask.shape, bool)
    if x1 - x0 < 8 or y1 - y0 < 8:
        for match in matches:
            copied[match.at[1] : match.at[1] + side, match.at[0] : match.at[0] + side] = True
        return copied
    here = fine[y0:y1, x0:x1]
    there = (
        fine[y0 + dy : y1 + dy, dx + side - x1 : dx + side - x0][:, ::-1]
        if mirrored
        else fine[y0 + dy : y1 + dy, x0 + dx : x1 + dx]
    )
    box = (15, 15)
    power = cv2.blur(here * here + there * there, box) + 1e-3
    local = cv2.blur(2 * here * there, box) / power
    agree = (local > max(0.3, 0.55 * first.likeness)) & window.filled[y0:y1, x0:x1]
    agree = cv2.morphologyEx(
        agree.astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8)
    ).astype(bool)
    copied[y0:y1, x0:x1] = agree
    if copied.sum() < side * side / 4:
        for match in matches:
            copied[match.at[1] : match.at[1] + side, match.at[0] : match.at[0] + side] = True
        copied &= window.filled
    return copied


def reading_of(
    window: Window,
    fine: np.ndarray,
    matches: list[Match],
    score: float,
    natural: Natural,
    beyond: tuple[int, int] = (0, 0),
) -> Reading:
    """Of tiles that share an offset. `beyond`: what to add to a source's place for the window's
    pixels.
    """
    matches = sorted(matches, key=lambda match: -match.agreement)
    first = matches[0]
    if score < 0.5:
        # Not reported: where it lies is enough.
        (x, y), side = first.at, first.side
        return Reading(
            "repeat",
            score,
            window.box_to_frame(x, y, side, side),
            window.to_frame(np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side]])),
            Signal((), float(side), float(side * side)),
            Measure("agreement of the grain", first.agreement, "1 = the same pixels", natural),
            Copy(),
        )
    copied = copied_area(window, fine, matches)
    ys, xs = np.nonzero(copied)
    x, y, w, h = int(xs.min()), int(ys.min()), int(np.ptp(xs)) + 1, int(np.ptp(ys)) + 1
    mirrored, dx, dy = offset_of(first)
    source_x, dy = (dx + first.side - x - w if mirrored else x + dx) + beyond[0], dy + beyond[1]
    hull = cv2.convexHull(np.stack([xs, ys], -1).astype(np.int32))[:, 0]
    polygon = window.to_frame(cv2.approxPolyDP(hull[:, None], 1.5, True)[:, 0] + 0.5)
    if len(polygon) < 3:
        polygon = window.to_frame(np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]]))
    there = window.filled[
        max(0, y + dy) : max(0, y + dy + h), max(0, source_x) : max(0, source_x + w)
    ]
    inside = bool(there.size and there.mean() > 0.5)
    return Reading(
        "repeat",
        score,
        window.box_to_frame(x, y, w, h),
        polygon,
        Signal(contrast(window, x, y, w, h), float(max(w, h)), float(copied.sum())),
        Measure("agreement of the grain", first.agreement, "1 = the same pixels", natural),
        Copy(
            mirrored=mirrored,
            offset_px=[float(source_x - x), float(dy)],
            copy=window.box_to_frame(x, y, w, h),
            source=window.box_to_frame(source_x, y + dy, w, h),
            source_inside_region=inside,
            patches=len(matches),
            agreement=first.agreement,
            likeness=first.likeness,
            structure_agreement=first.coarse,
        ),
    )
