"""How many of some 200 file names, named as hard as studios name them, are put with the right
picture as the right part.

.venv/bin/python benchmarks/pairing.py [--show]
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterable
from pathlib import Path

REPO = Path(__file__).parent.parent
sys.path[:0] = [str(REPO / "core")]
from zweiblick_core.rules.pairing import pair  # noqa: E402

ORIGINAL, RESULT, MASK = "original", "result", "mask"
#: A studio's way of naming: one of its pictures' files, each with what it is. `{}` takes a number
#: of two digits, so that every style is met with many pictures beside each other.
STYLES: dict[str, tuple[tuple[str, str], ...]] = {
    "plain": (("quay{}.jpg", ORIGINAL), ("quay{}-fortnimm.jpg", RESULT), ("quay{}_mask.png", MASK)),
    "counters of a camera": (
        ("DSC_40{}.JPG", ORIGINAL),
        ("DSC_40{}-1.jpg", RESULT),
        ("DSC_40{}-2.jpg", RESULT),
    ),
    "copies of an export": (
        ("Pier {}.tif", ORIGINAL),
        ("Pier {} (1).tif", RESULT),
        ("Pier {} (2).tif", RESULT),
    ),
    "the part first": (
        ("original_slip{}.png", ORIGINAL),
        ("result_slip{}.png", RESULT),
        ("mask_slip{}.png", MASK),
    ),
    "words grown together": (
        ("BoatShed{}Original.jpg", ORIGINAL),
        ("BoatShed{}Result.jpg", RESULT),
        ("BoatShed{}Mask.png", MASK),
    ),
    "one name within another": (
        ("jetty{}.jpg", ORIGINAL),
        ("jetty{}-rope.jpg", ORIGINAL),
        ("jetty{}-hand.png", RESULT),
        ("jetty{}-rope-hand.png", RESULT),
        ("jetty{}-rope-mask.png", MASK),
    ),
    "versions and dates": (
        ("2026-03-{}_hall_v1_orig.tif", ORIGINAL),
        ("2026-03-{}_hall_v2_retouched.tif", RESULT),
        ("2026-03-{}_hall_v3_retouched.tif", RESULT),
    ),
    "umlauts and spaces": (
        ("Brücke {} vorher.jpg", ORIGINAL),
        ("Brücke {} nachher.jpg", RESULT),
        ("Brücke {} Maske.png", MASK),
    ),
    "before and after": (
        ("wall.{}.before.png", ORIGINAL),
        ("wall.{}.after.png", RESULT),
        ("wall.{}.after.take2.png", RESULT),
    ),
    "twice an ending": (
        ("reeds{}.tif", ORIGINAL),
        ("reeds{}.tif.fortnimm.png", RESULT),
        ("reeds{}.tif.mask.png", MASK),
    ),
    "an outline of a result": (
        ("crane{}.jpg", ORIGINAL),
        ("crane{}-ada.png", RESULT),
        ("crane{}-ada-mask.png", MASK),
        ("crane{}-mask.png", MASK),
    ),
}
#: Pictures of each style.
COUNT = 6


def _filled(style: tuple[tuple[str, str], ...], number: int) -> Iterable[tuple[str, str, str]]:
    """(name, part, the original that it belongs to)"""
    names = [(name.format(f"{number:02}"), part) for name, part in style]
    originals = [name for name, part in names if part == ORIGINAL]
    for name, part in names:
        stem = name.rsplit(".", 1)[0]
        fits = [one for one in originals if stem.startswith(one.rsplit(".", 1)[0])]
        # Where no original's name begins it there is only one.
        yield name, part, max(fits, key=len, default=originals[0])


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--show", action="store_true", help="name what went wrong")
    given = parser.parse_args()
    truth = {
        name: (part, original, style)
        for style, names in STYLES.items()
        for number in range(1, COUNT + 1)
        for name, part, original in _filled(names, number)
    }
    found: dict[str, tuple[str, str | None]] = {}
    for group in pair(truth):
        for part, names in (
            (ORIGINAL, [group.original]),
            (MASK, [group.mask, *group.outlines.values()]),
            (RESULT, group.results),
        ):
            found |= {name: (part, group.original) for name in names if name}
    assert set(found) == set(truth), "a file was left out"
    right = {name: found[name] == (part, of) for name, (part, of, _) in truth.items()}
    for style in STYLES:
        names = [name for name in truth if truth[name][2] == style]
        print(f"{style:28} {sum(right[name] for name in names):3} of {len(names)}")
        for name in names if given.show else ():
            if not right[name]:
                print(f"    {name}: {found[name]}, is {truth[name][:2]}")
    doubtful = sum(1 for name in truth if not right[name] and found[name][1] is None)
    print(
        f"\n{sum(right.values())} of {len(right)} paired rightly; of the others {doubtful} stand in a"
        " group without an original, which intake shows"
    )


if __name__ == "__main__":
    main()
