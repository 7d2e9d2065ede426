"""What the retoucher at the desk does with a slip: works on the slip's regions only, and does what
the slip says.

Told nothing, they work by habit: a quick copy from near by, laid in hard, the outline a little
    tight. Every change on the slip replaces
one of those habits.
"""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np

from zweiblick_core import methods
from zweiblick_core.errors import Refused
from zweiblick_core.io import eight_bit, read, read_mask

HABITUAL_GROWTH = -2


@dataclass
class Plan:
    """How one region will be worked."""

    from_original: bool = False
    method: str = "copy that fits its rim"
    grow: int = HABITUAL_GROWTH
    feather: float = 0.0
    blend: bool = False
    grain: bool = False
    along: list[float] = field(default_factory=list)
    farther: bool = False
    keep_out: list[list[float]] = field(default_factory=list)


def _original(plan: Plan, values: dict[str, Any]) -> None:
    plan.from_original = True


def _looser(plan: Plan, values: dict[str, Any]) -> None:
    plan.grow, plan.blend = int(values.get("pixels", 6)), True


def _tighter(plan: Plan, values: dict[str, Any]) -> None:
    plan.grow = -int(values.get("pixels", 4))


def _feather(plan: Plan, values: dict[str, Any]) -> None:
    plan.feather, plan.grow = float(values.get("pixels", 4)), max(plan.grow, 0)


def _keep_out(plan: Plan, values: dict[str, Any]) -> None:
    plan.keep_out += values.get("boxes", [])


def _farther(plan: Plan, values: dict[str, Any]) -> None:
    plan.farther = True


def _along(plan: Plan, values: dict[str, Any]) -> None:
    plan.along += [float(value) for value in values.get("degrees", [])]


def _tone(plan: Plan, values: dict[str, Any]) -> None:
    plan.blend, plan.grow = True, max(plan.grow, 0)


def _beside(plan: Plan, values: dict[str, Any]) -> None:
    plan.blend = False


def _grain(plan: Plan, values: dict[str, Any]) -> None:
    plan.grain = True


def _method(plan: Plan, values: dict[str, Any]) -> None:
    if values.get("method") in methods.METHODS:
        plan.method = values["method"]
        _tone(plan, values)


#: What each change that a slip asks for does to the plan. The fills feather inside the picture only,
#: so "no feather at the frame" asks for nothing more.
_CHANGES = {
    "start from the original": _original,
    "looser outline": _looser,
    "tighter outline": _tighter,
    "feather": _feather,
    "keep sources out": _keep_out,
    "use another source": _farther,
    "follow the line": _along,
    "match tone": _tone,
    "match grain": _grain,
    "another method": _method,
    "rebuild by hand": _original,
    "copy from beside": _beside,
}


def plan_of(changes: list[dict[str, Any]]) -> Plan:
    plan = Plan()
    for change in changes:
        change_plan = _CHANGES.get(change["what"])
        if change_plan is not None:
            change_plan(plan, change.get("values", {}))
    return plan


def by_hand(area: np.ndarray, seed: int) -> np.ndarray:
    """An outline as a hand draws it: up to 2 px off along its way, and never the same twice. Whoever
    works the same place again by habit must not hand the very same file in.
    """
    wavers = cv2.GaussianBlur(
        np.random.default_rng(seed).normal(0, 1, area.shape).astype(np.float32), (0, 0), 6
    )
    inside = cv2.distanceTransform(area.astype(np.uint8), cv2.DIST_L2, 5)
    beyond = cv2.distanceTransform((~area).astype(np.uint8), cv2.DIST_L2, 5)
    drawn: np.ndarray = inside - beyond + np.clip(wavers / wavers.std(), -2, 2) > 0
    return drawn if drawn.any() else area


def work_region(
    base: np.ndarray, mask: np.ndarray, elsewhere: np.ndarray, plan: Plan, seed: int
) -> np.ndarray:
    """One region worked. `elsewhere`: bool, other regions: neither touched nor taken from."""
    room = cv2.dilate(elsewhere.astype(np.uint8), np.ones((27, 27), np.uint8)).astype(bool)
    area = by_hand(methods.grown(mask, plan.grow), seed) & ~room
    if not area.any():
        area = mask
    keep_out = elsewhere | mask
    for x, y, w, h in plan.keep_out:
        keep_out[max(0, int(y)) : max(0, int(y + h)), max(0, int(x)) : max(0, int(x + w))] = True
    ys, xs = np.nonzero(area)
    least = 1.25 * float(min(np.ptp(ys), np.ptp(xs)) + 1) if plan.farther else 0.0
    if plan.method != "copy that fits its rim":
        return methods.remove(
            plan.method,
            base,
            area,
            feather=plan.feather,
            keep_out=keep_out & ~area,
            grain=plan.grain,
            seed=seed,
        )
    for barred, along in ((keep_out, plan.along), (keep_out, []), (elsewhere | mask, [])):
        try:
            return methods.remove(
                plan.method,
                base,
                area,
                feather=plan.feather,
                keep_out=barred,
                grain=plan.grain,
                seed=seed,
                along=along,
                least=least,
                blend=plan.blend,
            )
        except Refused:
            continue
    # No room for one source: pieces from all around.
    return methods.remove(
        "exemplar fill",
        base,
        area,
        feather=plan.feather,
        keep_out=(elsewhere | mask) & ~area,
        grain=plan.grain,
        seed=seed,
        scale=0.5,
        margin=200,
    )


def work_slip(
    package: bytes, told: Callable[[float], None] = lambda part: None, careless: bool = False
) -> bytes:
    """A slip package (docs/formats.md) to the file of a new result, PNG.

    Args:
        careless: touch something that was not sent: what was locked, if anything was.

    Raises:
        Refused: the package is not one.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(package)) as files:
            slip = json.loads(files.read("slip.json"))
            original, given = (
                eight_bit(read(files.read(slip["files"][name])).pixels).round().astype(np.uint8)
                for name in ("original", "attempt")
            )
            frame = given.shape[:2]
            masks = {
                region["number"]: read_mask(files.read(region["mask"]), frame)
                for region in slip["regions"]
            }
            locked = [read_mask(files.read(name), frame) for name in slip["locked"]]
    except (zipfile.BadZipFile, KeyError, ValueError) as error:
        raise Refused("this is no slip package") from error
    out = given.copy()
    for number, region in enumerate(slip["regions"]):
        told(number / len(slip["regions"]))
        mask = masks[region["number"]]
        elsewhere = np.zeros(frame, bool)
        for other in [*locked, *(masks[key] for key in masks if key != region["number"])]:
            elsewhere |= other
        plan = plan_of(region["changes"])
        base = out.copy()
        # What stands there is worked over; a rebuild begins with what the camera saw.
        around = methods.grown(mask, max(plan.grow, 0) + 40) & ~elsewhere
        base[around] = original[around] if plan.from_original else base[around]
        out = work_region(base, mask, elsewhere, plan, int(slip.get("round", 1)))
    if careless:
        out = _strayed(out, locked, list(masks.values()))
    told(1.0)
    ok, data = cv2.imencode(
        ".png", np.ascontiguousarray(out[..., ::-1]), [cv2.IMWRITE_PNG_COMPRESSION, 3]
    )
    if not ok:
        raise Refused("the result could not be written")
    return data.tobytes()


def _strayed(pixels: np.ndarray, locked: list[np.ndarray], sent: list[np.ndarray]) -> np.ndarray:
    """A brush that went where it should not: a soft dab in the first locked region, or far from all
    that was sent.
    """
    if locked:
        depth = cv2.distanceTransform(locked[0].astype(np.uint8), cv2.DIST_L2, 5)
    else:
        outside = ~np.any(sent, axis=0)
        depth = cv2.distanceTransform(outside.astype(np.uint8), cv2.DIST_L2, 5)
    y, x = np.unravel_index(int(depth.argmax()), depth.shape)
    dab = np.zeros(pixels.shape[:2], np.float32)
    cv2.circle(dab, (int(x), int(y)), 9, 1.0, -1)
    dab = cv2.GaussianBlur(dab, (0, 0), 3)[..., None]
    return np.clip(pixels + 14 * dab, 0, 255).round().astype(np.uint8)
