"""How fast files come in: megabytes a second from a folder to arrivals that are read, against
copying the same bytes with a hash and an fsync here.

.venv/bin/python benchmarks/intake.py [--files 12] [--megapixels 3]
"""

from __future__ import annotations

import argparse
import hashlib
import os
import sys
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent / "client")]
from houses import base_of, house_of, inside  # noqa: E402

from zweiblick_client.api import Server  # noqa: E402


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--files", type=int, default=12)
    parser.add_argument("--megapixels", type=float, default=3)
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder, house_of("workers", "web") as house:
        files = made(Path(folder), given.files, given.megapixels)
        size = sum(file.stat().st_size for file in files) / 1e6
        plain = copied(files, Path(folder))
        secret, job = inside(
            house,
            "from people.tokens import make_token\n"
            "print(json.dumps([make_token(vera, 'bench')[1], job.pk]))",
        )
        server = Server(base_of(house), secret)
        start = time.monotonic()
        for file in files:
            server.send(job, file, file.name)
        sent = time.monotonic() - start
        while any(one["state"] == "reading" for one in server.intake(job)["arrivals"]):
            time.sleep(0.1)
        ready = time.monotonic() - start
    print(f"{given.files} files, {size:.0f} MB")
    print(f"copied here with hash and fsync: {size / plain:.0f} MB/s")
    print(f"sent in parts, kept by the server: {size / sent:.0f} MB/s ({sent / plain:.1f} times)")
    print(f"and read by workers: {size / ready:.0f} MB/s ({ready / plain:.1f} times)")


def made(folder: Path, count: int, megapixels: float) -> list[Path]:
    """Grainy pictures, as cameras give them; PNG."""
    rng = np.random.default_rng(3)
    height = round((megapixels * 1e6 / 1.5) ** 0.5)
    files = []
    for number in range(count):
        broad = cv2.GaussianBlur(rng.normal(0, 1, (height, height * 3 // 2, 3)), (0, 0), 9)
        grain = rng.normal(0, 3, broad.shape)
        pixels = np.clip(128 + 60 * broad / broad.std() + grain, 0, 255).astype(np.uint8)
        files.append(folder / f"pier-{number:02}.png")
        cv2.imwrite(str(files[-1]), pixels)
    return files


def copied(files: list[Path], folder: Path) -> float:
    """Seconds to copy files with a hash, each synced."""
    start = time.monotonic()
    for number, file in enumerate(files):
        data = file.read_bytes()
        hashlib.sha256(data).hexdigest()
        with (folder / f"copy-{number}").open("wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())
    return time.monotonic() - start


if __name__ == "__main__":
    main()
