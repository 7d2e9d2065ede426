"""The command `zweiblick`; its verb `check` examines one attempt at a picture, or many; `shot` one at a
moving picture; `mend` fills one from its own ground.

Exit code 0 when reports were written, whatever they say; 2 with one plain line on stderr when the
input cannot be read.
"""

from __future__ import annotations

import argparse
import json
import sys
from fractions import Fraction
from importlib.metadata import entry_points
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from .check import check
from .errors import Refused
from .io import Picture, read, read_mask
from .regions import Region, from_geojson, from_mask, proposed
from .report import Finding, Report
from .report.drawing import marked
from .visibility import Size, parse_size


def regions_of(
    mask: str | None, regions: str | None, original: Picture, result: Picture
) -> list[Region]:
    """Regions from a mask file or a GeoJSON file; proposed from what changed if neither is given."""
    frame = (original.height, original.width)
    if mask:
        return from_mask(read_mask(mask, frame))
    if regions:
        try:
            document = json.loads(Path(regions).read_text("utf-8"))
        except OSError as error:
            raise Refused(
                f"{Path(regions).name}: cannot be opened ({error.strerror or error})"
            ) from error
        except ValueError as error:
            raise Refused(f"{Path(regions).name}: is not JSON") from error
        return from_geojson(document, frame)
    return proposed(original, result)


def examine(
    original: str,
    result: str,
    mask: str | None,
    regions: str | None,
    size: Size,
    draw: str | None = None,
) -> Report:
    """Read the files and check them; draw what was found if asked to.

    Raises:
        Refused: anything that cannot be read or does not fit, or a drawing that cannot be written.
    """
    first, second = read(original), read(result)
    report = check(first, second, regions_of(mask, regions, first, second), size)
    if draw:
        _draw(Path(draw), marked(first, second, report))
    return report


def _draw(path: Path, pixels: np.ndarray) -> None:
    data = cv2.imencode(".png", pixels[..., ::-1])[1]
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(data.tobytes())
        part.replace(path)
    except OSError as error:
        raise Refused(f"{path}: cannot be written ({error.strerror or error})") from error


def _write(path: Path, text: str) -> None:
    """Written beside and moved: a report is whole or not there."""
    part = path.with_name(path.name + ".part")
    try:
        part.write_text(text + "\n", "utf-8")
        part.replace(path)
    except OSError as error:
        raise Refused(f"{path}: cannot be written ({error.strerror or error})") from error


def _batch(listing: Path, folder: Path, size: Size) -> None:
    try:
        lines = listing.read_text("utf-8").splitlines()
        folder.mkdir(parents=True, exist_ok=True)
    except (OSError, UnicodeDecodeError) as error:
        raise Refused(f"{listing.name}: cannot be read") from error
    base = listing.resolve().parent
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        name = f"line-{number}"
        try:
            given = _line(line, number)
            name = given["id"]
            beside = {
                key: str(base / given[key]) if given.get(key) else None
                for key in ("original", "result", "mask", "regions")
            }
            report = examine(
                str(beside["original"]),
                str(beside["result"]),
                beside["mask"],
                beside["regions"],
                size,
            )
            _write(folder / f"{name}.json", report.to_json())
        except Refused as error:
            _write(
                folder / f"{name}.error.json",
                json.dumps({"id": name, "line": number, "error": str(error)}, ensure_ascii=False),
            )


def _line(line: str, number: int) -> dict[str, Any]:
    try:
        given = json.loads(line)
    except ValueError as error:
        raise Refused(f"line {number} is not JSON") from error
    if not isinstance(given, dict) or not all(
        isinstance(given.get(key), str) for key in ("id", "original", "result")
    ):
        raise Refused(f"line {number} needs the texts id, original and result")
    if not given["id"] or given["id"].startswith(".") or any(c in given["id"] for c in "/\\\0"):
        raise Refused(f"line {number}: the id cannot be a file's name")
    return given


def summary(report: Report) -> str:
    """What a person reads on the terminal."""
    if report.alignment["kind"] == "unmatched":
        return f"unmatched: {report.alignment['reason']}"
    lines = [f"overall {report.overall:.2f}, judged for {report.size['text']}"]
    lines += (
        [
            f"brought into register: {'; '.join(report.alignment['done'])}; matched to {report.alignment['residual_px']:.2f} px"
        ]
        if report.alignment["done"]
        else []
    )
    lines += [str(fact["words"]) for fact in report.facts] + (
        [str(report.base["words"])] if report.base else []
    )
    for region in report.regions:
        lines.append(
            f"region {region.id} ({region.backdrop}): {region.overall:.2f}"
            + ("" if region.findings else ", nothing found")
        )
        words = {group.id: group.words for group in region.groups}
        lines += [_line_of(finding, words) for finding in region.findings]
        lines += [f"  {kind}: cannot tell, {reason}" for kind, reason in region.abstained.items()]
    outside = report.overreach["findings"]
    if outside:
        words = {group.id: group.words for group in report.overreach["groups"]}
        lines += ["outside every region:", *(_line_of(finding, words) for finding in outside)]
    return "\n".join(lines)


def _line_of(finding: Finding, words: dict[str, str]) -> str:
    natural = finding.measure.natural
    return (
        f"  {finding.kind}{f' (or {finding.runner_up})' if finding.runner_up else ''}, {finding.word}, {finding.confidence:.0%} sure; {words[finding.group]}; "
        f"{finding.measure.name} here reads {natural.low:.2g} to {natural.high:.2g}, this one {finding.measure.value:.2g}"
    )


def parser() -> argparse.ArgumentParser:
    """What the command `zweiblick` takes."""
    made = argparse.ArgumentParser(
        prog="zweiblick",
        description="Judge removals of things from photographs against the originals.",
    )
    verbs = made.add_subparsers(dest="verb", required=True)
    one = verbs.add_parser("check", help="examine one attempt, or a list of them")
    one.add_argument("original", nargs="?")
    one.add_argument("result", nargs="?")
    where = one.add_mutually_exclusive_group()
    where.add_argument("--mask", metavar="MASK.png", help="white where something was to be removed")
    where.add_argument(
        "--regions", metavar="FILE.geojson", help="regions as polygons in pixels of the original"
    )
    one.add_argument(
        "--size",
        help="delivery size: 1080px, or 420x594mm@150dpi@700mm; without it 100 %% at 96 dpi from 600 mm",
    )
    one.add_argument("--out", metavar="report.json", help="where the report goes")
    one.add_argument(
        "--draw", metavar="out.png", help="a picture of the attempt with what was found drawn on it"
    )
    one.add_argument(
        "--batch",
        metavar="list.jsonl",
        help="one JSON object a line: id, original, result, mask or regions",
    )
    one.add_argument("--out-dir", metavar="DIR", help="where the batch's reports go")
    one.set_defaults(run=_check)
    shot = verbs.add_parser("shot", help="examine an attempt at a shot")
    shot.add_argument("original", help="a folder of numbered pictures, or a video")
    shot.add_argument("result")
    shot.add_argument(
        "--masks",
        metavar="FOLDER|MASK.png",
        help="white where something was to be removed: one frame's, or numbered ones of some frames or all; without it, what changed",
    )
    shot.add_argument(
        "--rate", type=float, help="frames a second of numbered pictures; 24 if not said"
    )
    shot.add_argument("--size", help="delivery size, as for check")
    shot.add_argument(
        "--no-stills", action="store_true", help="do not check key frames as pictures"
    )
    shot.add_argument("--out", metavar="report.json", required=True, help="where the report goes")
    shot.set_defaults(run=_shot)
    filled = verbs.add_parser("mend", help="fill a shot from its own ground")
    filled.add_argument("original", help="a folder of numbered pictures, or a video")
    filled.add_argument("--masks", metavar="FOLDER|MASK.png", required=True, help="as for shot")
    filled.add_argument("--base", help="an attempt that is mended; without it, the original")
    filled.add_argument("--frames", help="FIRST-LAST, counted from 0; all if not said")
    filled.add_argument(
        "--repaired",
        action="append",
        default=[],
        metavar="FRAME=PICTURE",
        help="a frame that was repaired by hand, carried to the others; may be given again",
    )
    filled.add_argument("--rate", type=float, help="as for shot")
    filled.add_argument("--out", metavar="mended.mkv", required=True, help="where it goes")
    filled.set_defaults(run=_mend)
    # Other packages may bring verbs of their own.
    for verb in entry_points(group="zweiblick.commands"):
        verb.load()(verbs)
    return made


def _check(given: argparse.Namespace) -> int:
    size = parse_size(given.size)
    if given.batch:
        if not given.out_dir or given.original:
            raise Refused("--batch takes --out-dir, and no pictures besides")
        _batch(Path(given.batch), Path(given.out_dir), size)
        return 0
    if not given.original or not given.result or not given.out:
        raise Refused("give ORIGINAL, RESULT and --out, or --batch and --out-dir")
    report = examine(given.original, given.result, given.mask, given.regions, size, given.draw)
    _write(Path(given.out), report.to_json())
    print(summary(report))
    return 0


def _shot(given: argparse.Namespace) -> int:
    # A picture's check needs none of what reads shots.
    from .shots import check_shot, open_shot, read_drawn
    from .shots.report import words_of

    rate = _rate(given.rate)
    original, result = open_shot(given.original, rate), open_shot(given.result, rate)
    drawn = read_drawn(given.masks, original) if given.masks else {}
    report = check_shot(original, result, drawn, parse_size(given.size), stills=not given.no_stills)
    _write(Path(given.out), report.to_json())
    print(words_of(report))
    return 0


def _rate(given: float | None) -> Fraction | None:
    if given is not None and not 1 <= given <= 240:
        raise Refused("--rate is from 1 to 240 frames a second")
    return Fraction(given).limit_denominator(1001) if given else None


def _mend(given: argparse.Namespace) -> int:
    from .shots import Mending, mend, open_shot, read_drawn
    from .shots.writing import write_shot

    original = open_shot(given.original, _rate(given.rate))
    base = open_shot(given.base, _rate(given.rate)) if given.base else original
    drawn = read_drawn(given.masks, original)
    span = (0, original.count - 1)
    if given.frames:
        try:
            first, last = given.frames.split("-")
            span = (int(first), int(last))
        except ValueError as error:
            raise Refused("--frames is FIRST-LAST, as 12-40") from error
    repaired = {}
    for one in given.repaired:
        number, _, path = one.partition("=")
        if not number.isdigit() or not path:
            raise Refused("--repaired is FRAME=PICTURE, as 30=frame.png")
        repaired[int(number)] = read(path).pixels
    target = Path(given.out)
    if target.suffix != ".mkv":
        raise Refused("--out is a Matroska file and ends with .mkv")
    asked = Mending({name: (span,) for name in drawn}, repaired)
    part = target.with_name(f".{target.name}.part")
    try:
        count = write_shot(part, mend(original, base, drawn, asked), original.rate)
        part.replace(target)
    except OSError as error:
        raise Refused(f"{target.name}: cannot be written ({error.strerror or error})") from error
    finally:
        part.unlink(missing_ok=True)
    print(f"{target.name}: {count} frames")
    return 0


def main(arguments: list[str] | None = None) -> int:
    """The command `zweiblick`; its exit status."""
    given = parser().parse_args(arguments)
    try:
        status: int = given.run(given)
        return status
    except Refused as error:
        print(f"zweiblick: {error}", file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(main())
