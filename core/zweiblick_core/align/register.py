"""Finding how a result lies in its original's frame.

Pictures that already share a frame are found so at little cost and are not touched. Others are
matched by scale-invariant features (Lowe 2004) with a random sample consensus (Fischler and Bolles
1981) on small copies, then refined by optical flow of strong corners (Lucas and Kanade 1981, as
Bouguet's pyramid does it) and a robust affine fit, twice.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..io import Picture, share_of, shrunk
from .alignment import SAME, WHOLE, Alignment, Matrix, unmatched

#: Longer side of the copies on which features are matched, and on which the fit is refined; pixels.
COARSE, FINE = 1000, 2000

#: A fit that rests on fewer matches is none.
LEAST_MATCHES = 14

#: From this likeness on two pictures of one size in which nothing can be matched lie as they are.
_AS_A_WHOLE = 0.98


def _grey(pixels: np.ndarray, side: float) -> tuple[np.ndarray, np.ndarray]:
    """uint8 grey whose longer side is at most about `side`, and its pixels for one of the given,
    across and down.
    """
    height, width = pixels.shape[:2]
    factor = min(1.0, side / max(height, width))
    # Next to nothing gained by a little less, and whole pixels lost.
    if factor < 0.9:
        pixels = shrunk(pixels, (max(1, round(width * factor)), max(1, round(height * factor))))
    if pixels.dtype == np.uint16:
        pixels = (pixels >> 8).astype(np.uint8)
    return cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY), np.array(
        [pixels.shape[1] / width, pixels.shape[0] / height]
    )


def _levelled(grey: np.ndarray) -> np.ndarray:
    """Local contrast brought to one level: another grading must not keep features from matching
    (Zuiderveld 1994).
    """
    return cv2.createCLAHE(2.0, (8, 8)).apply(grey)


def register(original: Picture, result: Picture, outside: np.ndarray | None = None) -> Alignment:
    """Decide how the result lies in the original's frame.

    Args:
        original, result: the pictures.
        outside: bool (height, width) of the original, False where something was to be removed;
            compared only where True.

    Returns:
        The alignment; `unmatched`, with the reason, if nothing fits.
    """
    if original.pixels.shape == result.pixels.shape:
        likeness = _likeness(original, result, outside)
        if _stands_still(original, result, outside, likeness):
            return SAME
        matched = _matched(original, result, outside)
        # A sky in another grading has nothing that could be matched, nor anything that says it was
        # moved.
        return SAME if matched.kind == "unmatched" and likeness > _AS_A_WHOLE else matched
    return _matched(original, result, outside)


def _likeness(original: Picture, result: Picture, outside: np.ndarray | None) -> float:
    """Correlation of two pictures of one size, small, -1..1; infinite where there is too little to
    say.
    """
    first, second = (
        _grey(picture.pixels, 512)[0].astype(np.float32) for picture in (original, result)
    )
    keep = (
        np.ones(first.shape, bool)
        if outside is None
        else share_of(outside, first.shape[::-1]) > 127
    )
    if keep.sum() < 64 or min(first.shape) < 32:
        return float("inf")
    a, b = first[keep] - first[keep].mean(), second[keep] - second[keep].mean()
    if a.std() < 1.0 and b.std() < 1.0:
        return float("inf")
    power = float(np.sqrt((a * a).sum() * (b * b).sum()))
    return float((a * b).sum()) / power if power > 1e-6 else 0.0


def _stands_still(
    original: Picture, result: Picture, outside: np.ndarray | None, likeness: float
) -> bool:
    """Whether nothing moved between two pictures of one size, so alike; if not, something may have."""
    if likeness < 0.9 or not np.isfinite(likeness):
        return bool(np.isposinf(likeness))
    # Strong corners all over the picture at full size must stand still, to a tenth of a pixel in
    # the middle.
    moved = _movements(original.pixels, result.pixels, outside)
    if len(moved) < 6:
        return likeness > _AS_A_WHOLE
    return bool(
        np.hypot(*np.median(moved, axis=0)) < 0.1 and np.percentile(np.hypot(*moved.T), 75) < 0.35
    )


def _movements(first: np.ndarray, second: np.ndarray, outside: np.ndarray | None) -> np.ndarray:
    """Displacements (n, 2) of the strongest corner in each of about 25 places, full resolution."""
    height, width = first.shape[:2]
    side = int(min(96, height // 3, width // 3))
    if side < 24:
        return np.zeros((0, 2))
    found = []
    for y in np.linspace(0, height - side, 5).astype(int):
        for x in np.linspace(0, width - side, 5).astype(int):
            here = (slice(y, y + side), slice(x, x + side))
            if outside is not None and not outside[here].all():
                continue
            one, other = _grey(first[here], side)[0], _grey(second[here], side)[0]
            corners = cv2.goodFeaturesToTrack(one, 4, 0.05, 8)
            if corners is None or one.std() < 2:
                continue
            flow, status, _ = cv2.calcOpticalFlowPyrLK(
                one, other, corners, None, winSize=(21, 21), maxLevel=2
            )  # type: ignore[call-overload]
            found += [
                tuple(p - q)
                for p, q, good in zip(flow[:, 0], corners[:, 0], status[:, 0], strict=True)
                if good
            ]
    return np.array(found, float).reshape(-1, 2)


def _matched(original: Picture, result: Picture, outside: np.ndarray | None) -> Alignment:
    first, f1 = _grey(original.pixels, COARSE)
    second, f2 = _grey(result.pixels, COARSE)
    if min(first.shape + second.shape) < 24:
        return unmatched("the pictures differ in size and are too small to be matched")
    keep = (
        None
        if outside is None
        else (
            cv2.resize(outside.astype(np.uint8), first.shape[::-1], interpolation=cv2.INTER_AREA)
            * 255
        )
    )
    sift = cv2.SIFT.create(nfeatures=2500, contrastThreshold=0.02)
    points1, words1 = sift.detectAndCompute(_levelled(first), keep)
    points2, words2 = sift.detectAndCompute(_levelled(second), None)
    if (
        words1 is None
        or words2 is None
        or len(points1) < LEAST_MATCHES
        or len(points2) < LEAST_MATCHES
    ):
        return unmatched("there is too little in the pictures that could be matched")
    pairs = cv2.BFMatcher(cv2.NORM_L2).knnMatch(words1, words2, k=2)
    good = [
        pair[0] for pair in pairs if len(pair) == 2 and pair[0].distance < 0.8 * pair[1].distance
    ]
    if len(good) < LEAST_MATCHES:
        return unmatched("the two pictures do not show the same thing")
    source = np.array([points1[m.queryIdx].pt for m in good]) / f1 + (0.5 / f1 - 0.5)
    target = np.array([points2[m.trainIdx].pt for m in good]) / f2 + (0.5 / f2 - 0.5)
    cv2.setRNGSeed(1)
    matrix, inliers = cv2.estimateAffinePartial2D(
        source,
        target,
        method=cv2.RANSAC,
        ransacReprojThreshold=3.0 / float(f2.min()),
        maxIters=4000,
        confidence=0.999,
    )
    if matrix is None or int(inliers.sum()) < LEAST_MATCHES or inliers.mean() < 0.12:
        return unmatched("the two pictures do not show the same thing")
    scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
    angle = float(np.degrees(np.arctan2(matrix[1, 0], matrix[0, 0])))
    if not 0.2 <= scale <= 5 or abs(angle) > 12:
        return unmatched(
            f"the result would have to be turned by {angle:.0f} degrees and scaled to {scale:.0%}; up to 12 degrees and 20 to 500 % are matched"
        )
    matrix, residual = _refined(original, result, matrix, outside)
    return _described(original, result, matrix, residual)


def _refined(
    original: Picture, result: Picture, matrix: np.ndarray, outside: np.ndarray | None
) -> tuple[np.ndarray, float]:
    """Refit on corners followed by optical flow; residual in original pixels."""
    scale = float(np.sqrt(abs(np.linalg.det(matrix[:, :2]))))
    grey, factor = _grey(
        original.pixels, max(64, min(FINE, max(original.width, original.height) * min(1.0, scale)))
    )
    fine, f2 = _grey(
        result.pixels,
        max(64, max(result.width, result.height) * min(1.0, float(factor.max()) / scale)),
    )
    keep = (
        np.full(grey.shape, 255, np.uint8)
        if outside is None
        else cv2.resize(outside.astype(np.uint8), grey.shape[::-1], interpolation=cv2.INTER_AREA)
        * 255
    )
    corners = cv2.goodFeaturesToTrack(_levelled(grey), 900, 0.01, 9, mask=keep)
    residual, matched = 3.0, None
    if corners is None or len(corners) < LEAST_MATCHES:
        return matrix, residual
    # Coordinates of pixels' centres: (i + .5) / factor - .5 leads from a small copy to the full
    # picture.
    up = lambda points, f: (points + 0.5) / f - 0.5
    for turn in range(4):
        small = _small(matrix, factor, f2)
        warped = cv2.warpAffine(
            fine,
            small,
            grey.shape[::-1],
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )
        flow, status, _ = cv2.calcOpticalFlowPyrLK(
            _levelled(grey),
            _levelled(warped),
            corners,
            None,
            winSize=(21, 21),
            maxLevel=3 if turn == 0 else 1,
        )  # type: ignore[call-overload]
        ok = (status[:, 0] > 0) & (np.hypot(*(flow - corners)[:, 0].T) < (12 if turn == 0 else 2))
        place = flow[:, 0] @ small[:, :2].T + small[:, 2]
        ok &= (
            (place > 4).all(axis=1)
            & (place[:, 0] < fine.shape[1] - 5)
            & (place[:, 1] < fine.shape[0] - 5)
        )
        if ok.sum() < LEAST_MATCHES:
            break
        cv2.setRNGSeed(1)
        fitted, inliers = cv2.estimateAffine2D(
            up(corners[ok][:, 0], factor),
            up(place[ok], f2),
            method=cv2.RANSAC,
            ransacReprojThreshold=0.8 / float(f2.min()),
            maxIters=3000,
            confidence=0.999,
        )
        if fitted is None or inliers.sum() < LEAST_MATCHES:
            break
        good = inliers[:, 0] > 0
        source, target = up(corners[ok][:, 0], factor)[good], up(place[ok], f2)[good]
        off = np.hypot(*(source @ fitted[:, :2].T + fitted[:, 2] - target).T) / scale
        if turn and float(np.median(off)) > residual * 1.05:
            break
        matrix, residual, matched = fitted, float(np.median(off)), (source, target)
    return _simplest(original, result, matrix, residual, matched, scale)


def _simplest(
    original: Picture,
    result: Picture,
    matrix: np.ndarray,
    residual: float,
    matched: tuple[np.ndarray, np.ndarray] | None,
    scale: float,
) -> tuple[np.ndarray, float]:
    """The simplest map that fits the matched points about as well as the free one: fewer freedoms
    carry less error to the corners.

    Tried in order: a move by whole pixels, the whole frame resized, turned and scaled alike in both
        directions.
    """
    if matched is None:
        return matrix, residual
    source, target = matched
    off = lambda m: float(np.median(np.hypot(*(source @ m[:, :2].T + m[:, 2] - target).T))) / scale
    fx, fy = result.width / original.width, result.height / original.height
    candidates = [
        np.column_stack([np.eye(2), np.round(np.median(target - source, axis=0))]),
        np.array([[fx, 0, 0.5 * fx - 0.5], [0, fy, 0.5 * fy - 0.5]]),
    ]
    for candidate in candidates:
        if off(candidate) <= 1.15 * residual + 0.02:
            return candidate, off(candidate)
    # Similarity by least squares on the matched points (Umeyama 1991, without reflection), the
    # worst tenth left out.
    keep = np.ones(len(source), bool)
    alike = matrix
    for _ in range(3):
        a, b = source[keep] - source[keep].mean(axis=0), target[keep] - target[keep].mean(axis=0)
        real, imaginary = float((a * b).sum()), float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum())
        power = float((a * a).sum())
        linear = np.array([[real, -imaginary], [imaginary, real]]) / max(power, 1e-9)
        alike = np.column_stack(
            [linear, target[keep].mean(axis=0) - linear @ source[keep].mean(axis=0)]
        )
        apart = np.hypot(*(source @ alike[:, :2].T + alike[:, 2] - target).T)
        keep = apart <= np.percentile(apart, 90)
    if off(alike) <= 1.15 * residual + 0.02:
        return alike, off(alike)
    return matrix, residual


def _small(matrix: np.ndarray, f1: np.ndarray, f2: np.ndarray) -> np.ndarray:
    """The same map between small copies, pixel centres respected. `f1`, `f2`: their pixels for one
    of the full pictures', across and down.
    """
    linear = matrix[:, :2] * f2[:, None] / f1[None, :]
    return np.column_stack(
        [linear, (matrix[:, :2] @ (0.5 / f1 - 0.5) + matrix[:, 2] + 0.5) * f2 - 0.5]
    )


def _described(
    original: Picture, result: Picture, matrix: np.ndarray, residual: float
) -> Alignment:
    scale = float(np.sqrt(abs(np.linalg.det(matrix[:, :2]))))
    angle = float(np.degrees(np.arctan2(matrix[1, 0] - matrix[0, 1], matrix[0, 0] + matrix[1, 1])))
    reach = max(original.width, original.height)
    whole = np.round(matrix[:, 2])
    if (
        abs(scale - 1) * reach < 0.25
        and abs(np.radians(angle)) * reach < 0.25
        and np.abs(matrix[:, 2] - whole).max() < 0.12
    ):
        # A crop or a move by whole pixels: exactly so, and nothing is resampled.
        matrix, scale, angle = np.column_stack([np.eye(2), whole]), 1.0, 0.0
    corners = (
        np.array(
            [[0, 0], [result.width, 0], [result.width, result.height], [0, result.height]], float
        )
        - 0.5
    )
    back = cv2.invertAffineTransform(matrix)
    shown = corners @ back[:, :2].T + back[:, 2] + 0.5
    frame = np.array(
        [[0, 0], [original.width, 0], [original.width, original.height], [0, original.height]],
        np.float32,
    )
    common, _ = cv2.intersectConvexConvex(shown.astype(np.float32), frame)
    covers = float(min(1.0, max(0.0, common / (original.width * original.height))))
    done = []
    turned, scaled = abs(np.radians(angle)) * reach > 0.5, abs(scale - 1) * reach > 0.6
    (left, top), (right, bottom) = shown.min(axis=0), shown.max(axis=0)
    cut = covers < WHOLE
    if turned:
        done.append(f"turned by {angle:+.2f} degrees")
    if scaled:
        done.append(f"resized to {scale:.1%}")
    if cut:
        done.append(
            f"cropped to {covers:.0%} of the original: from {left:.0f}, {top:.0f} to {right:.0f}, {bottom:.0f}"
        )
    shifted = not cut and not turned and not scaled and np.abs(matrix[:, 2]).max() > 0.05
    if shifted or (
        cut and original.pixels.shape == result.pixels.shape and not turned and not scaled
    ):
        done.append(f"shifted by {matrix[0, 2]:+.2f}, {matrix[1, 2]:+.2f} pixels")
    same_size = original.pixels.shape == result.pixels.shape
    kind = (
        "turned"
        if turned
        else "scaled"
        if scaled
        else "cropped"
        if cut and not same_size
        else "shifted"
        if np.abs(matrix[:, 2]).max() > 0.05
        else "same"
    )
    listed: Matrix = tuple(tuple(float(v) for v in row) for row in matrix)  # type: ignore[assignment]
    return Alignment(
        kind,
        (float(matrix[0, 2]), float(matrix[1, 2])),
        scale,
        angle,
        listed,
        residual,
        None,
        tuple(done),
        covers,
    )
