"""Shots with one fault each, and without: AUC by kind, how many clean shots are silent, how well the frames
of a fault are found. Filmed by `demo/filmed.py` over the photographs of `training/`, or over real clips.

    .venv/bin/python benchmarks/moving.py --out SHOTS.jsonl [--photographs 40]   # measures; goes on where the file ends
    .venv/bin/python benchmarks/moving.py --read SHOTS.jsonl                     # the figures
    .venv/bin/python benchmarks/moving.py --speed [--height 1080] [--frames 48]  # CPU seconds and memory of a check against decoding both shots
    .venv/bin/python benchmarks/moving.py --fit SHOTS.jsonl core/zweiblick_core/model/shots-v0.json

Cut-offs are fitted on every third photograph and figures are of the others.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import resource
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction
from multiprocessing import get_context
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))
from demo.filmed import FAULTS, Made, Scene, filmed  # noqa: E402
from training.photographs import names, photograph  # noqa: E402
from zweiblick_core.shots import check_shot, judging  # noqa: E402
from zweiblick_core.shots.frames import Shot, open_shot  # noqa: E402
from zweiblick_core.shots.report import OVER_TIME  # noqa: E402

#: How plain faults are, in what `filmed` calls 1.
AMOUNTS = (0.5, 1.0, 2.0)
#: Clean shots for each photograph: of a thing that stands, and of one that walks.
CLEAN = ("clean", "clean walking")
#: Of clean shots that were not fitted on, each kind alone may be reported in so many.
ALARMS = 0.02


def shot_of(frames: list[np.ndarray], name: str) -> Shot:
    """Frames in memory as a shot."""
    height, width = frames[0].shape[:2]
    return Shot(name, "pictures", len(frames), width, height, 8, Fraction(24), 0, (), frames)


def encoded(frames: list[np.ndarray], folder: Path) -> Shot:
    """The same, saved as H.264 and read again."""
    import av

    place = folder / "result.mp4"
    with av.open(str(place), "w") as container:
        stream = container.add_stream("libx264", rate=24, options={"crf": "16"})
        stream.height, stream.width = frames[0].shape[:2]
        stream.pix_fmt = "yuv444p"
        for frame in frames:
            container.mux(stream.encode(av.VideoFrame.from_ndarray(frame, format="rgb24")))
        container.mux(stream.encode())
    return open_shot(str(place))


def scene_of(number: int, fault: str) -> tuple[Scene, float, bool]:
    """A shot's camera, how plain its fault is, and whether its result is saved anew."""
    rng = np.random.default_rng([2031, number, [*FAULTS, *CLEAN].index(fault)])
    amount = float(AMOUNTS[int(rng.integers(len(AMOUNTS)))])
    return (
        Scene(
            frames=48,
            shape=(240, 320),
            pan=float(rng.uniform(0, 2.2)),
            shake=float(rng.uniform(0, 1.2)),
            grain=float(rng.uniform(0.6, 3.0)),
            light=float(rng.uniform(0.1 if fault == "light" else 0, 0.25)),
            passing=fault == "occlusion" or bool(rng.random() < 0.5),
            walking=fault in ("shadow", "clean walking"),
            radius=int(rng.integers(20, 38)),
            seed=int(rng.integers(1 << 30)),
        ),
        amount,
        bool(rng.random() < 0.4),
    )


def ground_of(name: str, scene: Scene, seed: int) -> np.ndarray | None:
    """A part of a photograph that a camera pans over."""
    photo = photograph(name)
    height = scene.shape[0] + 40
    width = int(scene.shape[1] + abs(scene.pan) * scene.frames + 40)
    scale = max(0.5, height / photo.shape[0], width / photo.shape[1])
    if scale > 1.0:
        return None
    photo = cv2.resize(photo, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    rng = np.random.default_rng(seed)
    top = int(rng.integers(0, photo.shape[0] - height + 1))
    left = int(rng.integers(0, photo.shape[1] - width + 1))
    return photo[top : top + height, left : left + width]


def measured(task: tuple[str, int, str]) -> dict[str, Any] | None:
    """One shot: what each kind saw."""
    name, number, fault = task
    cv2.setNumThreads(1)
    scene, amount, again = scene_of(number, fault)
    ground = ground_of(name, scene, scene.seed)
    if ground is None:
        return None
    made: Made = filmed(ground, scene, "" if fault in CLEAN else fault, amount)
    every = 8 if scene.walking else len(made.masks)
    drawn = {n: made.masks[n] for n in range(every // 2, len(made.masks), every)}
    drawn = {n: mask for n, mask in drawn.items() if mask.any()}
    seen: dict[str, tuple[float, tuple[int, int, int]]] = {}
    kept = judging.reported

    def watched(all_seen: list[Any]) -> list[Any]:
        seen.update({one.kind: (one.far, one.frames()) for one in all_seen})
        return kept(all_seen)

    judging.reported = watched
    try:
        with TemporaryDirectory() as folder:
            result = encoded(made.result, Path(folder)) if again else shot_of(made.result, "result")
            report = check_shot(
                shot_of(made.original, "original"), result, {"1": drawn}, stills=False
            )
    finally:
        judging.reported = kept
    found = report.regions[0].findings if report.regions else []
    return {
        "photograph": name,
        "fault": fault,
        "amount": amount,
        "again": again,
        "wrong": made.wrong,
        "far": {kind: far for kind, (far, _) in seen.items()},
        "frames": {kind: frames for kind, (_, frames) in seen.items()},
        "found": [one.kind for one in found],
        "words": [one.word for one in found],
        "moves": bool(report.regions and report.regions[0].moves),
        "timing": report.shot["timing"]["words"],
    }


def _measure(out: Path, photographs: int) -> None:
    known = set()
    if out.exists():
        known = {(line["photograph"], line["fault"]) for line in _lines(out)}
    tasks = [
        (name, number, fault)
        for number, name in enumerate(names()[:photographs])
        for fault in (*CLEAN, *FAULTS)
        if (name, fault) not in known
    ]
    with ProcessPoolExecutor(2) as pool, out.open("a") as file:
        for line in pool.map(measured, tasks):
            if line is not None:
                file.write(json.dumps(line) + "\n")
                file.flush()


def _lines(path: Path) -> list[dict[str, Any]]:
    return [json.loads(line) for line in path.read_text().splitlines()]


def _is_fitted(line: dict[str, Any]) -> bool:
    return names().index(line["photograph"]) % 3 == 0


def _auc(good: list[float], bad: list[float]) -> float:
    wins = [(b > g) + 0.5 * (b == g) for b in bad for g in good]
    return float(np.mean(wins)) if wins else float("nan")


def _fit(lines: list[dict[str, Any]], out: Path) -> None:
    """From how far on each kind is reported: where one in fifty clean shots would be."""
    kinds = {}
    for kind in OVER_TIME:
        clean = [
            line["far"][kind] for line in lines if line["fault"] in CLEAN and kind in line["far"]
        ]
        half = max(2.0, float(np.quantile(clean, 1 - ALARMS)))
        kinds[kind] = {
            "half": round(half, 2),
            "width": round(max(0.4, half / 4), 2),
            "clean": len(clean),
        }
    data = hashlib.sha256("\n".join(sorted(map(json.dumps, lines))).encode()).hexdigest()
    out.write_text(
        json.dumps(
            {
                "model": "shots-v0",
                "from": f"benchmarks/moving.py --fit: each kind is reported in {ALARMS:.0%} of {len({line['photograph'] for line in lines})} photographs' clean shots",
                "data": data,
                "kinds": kinds,
            },
            indent=2,
        )
        + "\n"
    )


def _figures(lines: list[dict[str, Any]]) -> None:
    lines = [line for line in lines if not _is_fitted(line)]
    clean = [line for line in lines if line["fault"] in CLEAN]
    print(
        f"{len(lines)} shots of {len({line['photograph'] for line in lines})} photographs, {len(clean)} clean"
    )
    print(f"clean shots silent: {np.mean([not line['found'] for line in clean]):.2f}")
    for name in CLEAN:
        some = [line for line in clean if line["fault"] == name]
        print(f"  {name}: {np.mean([not line['found'] for line in some]):.2f} of {len(some)}")
    for fault in FAULTS:
        some = [line for line in lines if line["fault"] == fault]
        of = lambda rows, kind=fault: [row["far"].get(kind, -9.0) for row in rows]
        good = [line for line in clean if (line["fault"] == "clean walking") == (fault == "shadow")]
        right = [line for line in some if fault in line["found"]]
        off = [
            min(abs(line["frames"][fault][1] - frame) for frame in line["wrong"])
            for line in right
            if line["wrong"]
        ]
        by = " ".join(
            f"{amount:g}: {np.mean([fault in line['found'] for line in some if line['amount'] == amount] or [np.nan]):.2f}"
            for amount in AMOUNTS
        )
        print(
            f"{fault:10} AUC {_auc(of(good), of(some)):.3f}  found {len(right)} of {len(some)} ({by}); anything {np.mean([bool(line['found']) for line in some]):.2f}; worst frame off by {np.median(off) if off else float('nan'):g} (median)"
        )


def _speed(height: int, frames: int) -> None:
    """CPU seconds of a check against decoding both shots once, and the most memory; one process each."""
    cv2.setNumThreads(1)
    scene = Scene(
        frames=frames,
        shape=(height, height * 16 // 9),
        pan=height / 200,
        shake=height / 400,
        radius=height // 9,
    )
    photo = photograph(names()[0])
    need = (scene.shape[0] + 60, int(scene.shape[1] + scene.pan * frames + 60))
    scale = max(need[0] / photo.shape[0], need[1] / photo.shape[1])
    ground = cv2.resize(photo, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
    made = filmed(ground, scene, "flicker")
    with TemporaryDirectory() as folder:
        shots = []
        for name, part in (("original", made.original), ("result", made.result)):
            (Path(folder) / name).mkdir()
            shots.append(encoded(part, Path(folder) / name))
        drawn = {"1": {frames // 2: made.masks[frames // 2]}}
        del made, ground
        started = time.process_time()
        for shot in shots:
            for _ in shot:
                pass
        decoding = time.process_time() - started
        paths = [str(place) for place in sorted(Path(folder).glob("*/result.mp4"))]
        for stills in (False, True):
            # A process of its own, so that nothing that was made here counts.
            with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
                took, most = pool.submit(_checked, paths, drawn, stills).result()
            print(
                f"{frames} frames of {scene.shape[1]} x {height}, key frames {'too' if stills else 'left out'}: {took:.1f} CPU s, {took / decoding:.1f} x decoding ({decoding:.1f} s), {1000 * took / frames:.0f} ms a frame; {most:.0f} MB at most"
            )


def _checked(
    paths: list[str], drawn: dict[str, dict[int, np.ndarray]], stills: bool
) -> tuple[float, float]:
    """CPU seconds and megabytes of one check."""
    cv2.setNumThreads(1)
    started = time.process_time()
    check_shot(open_shot(paths[0]), open_shot(paths[1]), drawn, stills=stills)
    took = time.process_time() - started
    return took, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path)
    parser.add_argument("--photographs", type=int, default=40)
    parser.add_argument("--read", type=Path)
    parser.add_argument("--fit", nargs=2, type=Path)
    parser.add_argument("--speed", action="store_true")
    parser.add_argument("--height", type=int, default=1080)
    parser.add_argument("--frames", type=int, default=48)
    given = parser.parse_args()
    if given.speed:
        _speed(given.height, given.frames)
    if given.out:
        _measure(given.out, given.photographs)
    if given.fit:
        _fit([line for line in _lines(given.fit[0]) if _is_fitted(line)], given.fit[1])
    if given.read:
        _figures(_lines(given.read))


if __name__ == "__main__":
    main()
