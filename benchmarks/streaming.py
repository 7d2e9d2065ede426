"""Memory and CPU time of checking a shot against its length: 3840 x 2160, H.264, a pan over a made-up ground
with one thing removed. Each check runs in a process of its own; memory is that process's peak.

.venv/bin/python benchmarks/streaming.py --frames 30 300
"""

from __future__ import annotations

import argparse
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import av
import cv2
import numpy as np

REPO = Path(__file__).parent.parent
sys.path[:0] = [str(REPO / "core")]
from zweiblick_core.shots import open_shot  # noqa: E402

WIDTH, HEIGHT = 3840, 2160
#: Pixels that the camera moves with each frame, and the thing's radius; the ground has room for so many frames.
STEP, RADIUS, MOST = 1.5, 160, 400
_WIDE = WIDTH + round(STEP * MOST)


def ground(seed: int) -> np.ndarray:
    """Made-up ground wide enough for any pan, uint8."""
    noise = np.random.default_rng(seed)
    sums = np.zeros((HEIGHT, _WIDE, 3), np.float32)
    for octave in range(2, 8):
        side = 2**octave
        small = noise.normal(0, 1, (HEIGHT // side + 2, _WIDE // side + 2, 3))
        sums += side**0.5 * cv2.resize(
            small.astype(np.float32), sums.shape[1::-1], interpolation=cv2.INTER_CUBIC
        )
    return np.clip(120 + 9 * sums, 0, 255).astype(np.uint8)


def write(place: Path, frames: int, removed: bool) -> None:
    """A shot in which the thing is there or is not."""
    scene, noise = ground(3), np.random.default_rng(5)
    grain = noise.normal(0, 2, (4, HEIGHT, WIDTH, 3)).astype(np.float32)
    with av.open(str(place), "w") as container:
        stream = container.add_stream(
            "libx264", rate=24, options={"crf": "16", "preset": "ultrafast"}
        )
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        for number in range(frames):
            at = STEP * number
            shift = np.float32([[1, 0, -at], [0, 1, 0]])
            frame = cv2.warpAffine(scene, shift, (WIDTH, HEIGHT), flags=cv2.INTER_LINEAR)
            if not removed:
                centre = (round(WIDTH / 2 + 200 - at), HEIGHT // 2)
                cv2.circle(frame, centre, RADIUS, (70, 40, 150), -1, cv2.LINE_AA)
            grained = np.clip(frame + grain[number % 4], 0, 255).astype(np.uint8)
            container.mux(stream.encode(av.VideoFrame.from_ndarray(grained, format="rgb24")))
        container.mux(stream.encode())


def one(act: str, folder: str) -> None:
    """Check or only decode one pair; prints peak megabytes and CPU seconds."""
    pair = [open_shot(str(Path(folder) / name)) for name in ("before.mp4", "after.mp4")]
    begun = time.process_time()
    if act == "decode":
        for shot in pair:
            for _ in shot:
                pass
    else:
        from zweiblick_core.shots import check_shot

        mask = np.zeros((HEIGHT, WIDTH), bool)
        cv2.circle(mask.view(np.uint8), (WIDTH // 2 + 200, HEIGHT // 2), RADIUS + 6, 1, -1)
        report = check_shot(pair[0], pair[1], {"1": {0: mask}})
        print(len(report.regions[0].findings), "findings", file=sys.stderr)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"{peak:.0f} {time.process_time() - begun:.2f}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--frames", type=int, nargs="+", default=[30, 300])
    given = parser.parse_args()
    for frames in given.frames:
        with tempfile.TemporaryDirectory() as folder:
            for name, removed in (("before.mp4", False), ("after.mp4", True)):
                write(Path(folder) / name, frames, removed)
            found = {}
            for act in ("decode", "check"):
                out = subprocess.run(
                    [sys.executable, __file__, act, folder],
                    capture_output=True,
                    text=True,
                    check=True,
                )
                found[act] = [float(value) for value in out.stdout.split()]
            (_, decoding), (peak, checking) = found["decode"], found["check"]
            print(
                f"{frames} frames of {WIDTH} x {HEIGHT}: peak {peak:.0f} MB;"
                f" {checking / frames:.2f} CPU s a frame, {checking / decoding:.1f} times decoding both",
                flush=True,
            )


if __name__ == "__main__":
    if sys.argv[1:2] in (["decode"], ["check"]):
        one(sys.argv[1], sys.argv[2])
    else:
        main()
