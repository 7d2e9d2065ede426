"""What a delivery takes: seconds and memory of the zip of some signed pictures, with finals as TIFF
and JPEG, layers, masks and sheets; against reading each file and writing its final once.

.venv/bin/python benchmarks/delivering.py [--pictures 20] [--megapixels 6]
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parent)]
from houses import house_of, inside  # noqa: E402

#: Signed pictures: a thing is gone, everything else is the original's.
_MADE = """
import numpy as np
from attempts.intake import Facts, add_attempt, add_picture
from builders import disc, filled, holding, jpeg, png, textured, with_thing
from house import do_all_work
from signing.signing import sign
from verdicts.models import Cell
from verdicts.ruling import rule
height = round(({megapixels} * 1e6 / 1.5) ** 0.5)
shape = (height, height * 3 // 2); mask = disc(shape, 700, 600, 60)
for number in range({count}):
    truth = textured(*shape, seed=100 + number)
    picture = add_picture(job, f"Pier {{number + 1}}", f"pier-{{number}}.jpg",
                          jpeg(with_thing(truth, mask), 95), [("buoy", mask)], vera)
    from images.decoding import decoded
    original = decoded(picture.original.blob).pixels
    attempt = add_attempt(picture, f"{{number}}-hand.png", png(filled(original, mask, truth.astype(float))),
                          Facts("by hand", "by hand"), vera)
do_all_work()
for picture in job.pictures.all():
    attempt = picture.attempts.get()
    rule(Cell.objects.get(attempt=attempt).pk, vera, "passes", None, None)
    sign(picture, attempt, vera)
print(json.dumps(0))
"""
_DELIVERED = """
import resource, time
from signing.delivering import ask_delivery
from signing.formats import Options
from work.models import Work
from work.tasks import do_work
delivery = ask_delivery(job, list(job.pictures.values_list("pk", flat=True)),
                        Options(finals=("tiff", "jpeg")), vera)
work = Work.objects.get(kind="delivery", subject=str(delivery.pk))
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
start = time.monotonic()
do_work(work.pk)
took = time.monotonic() - start
delivery.refresh_from_db()
assert delivery.state == "ready", delivery.reason
after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
print(json.dumps([took, before / 1e3, after / 1e3, delivery.size / 1e6]))
"""
_ONCE = """
import time
from images.aligning import image_alignment
from signing.finals import as_jpeg, as_tiff, final_of
start = time.monotonic()
for picture in job.pictures.all():
    image = picture.attempts.select_related("image__blob").get().image
    final = final_of(picture.original, image, image_alignment(image))
    as_tiff(final); as_jpeg(final, 92)
print(json.dumps(time.monotonic() - start))
"""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pictures", type=int, default=20)
    parser.add_argument("--megapixels", type=float, default=6)
    given = parser.parse_args()
    with house_of() as house:
        inside(house, _MADE.format(count=given.pictures, megapixels=given.megapixels))
        once = inside(house, _ONCE)
        took, before, after, size = inside(house, _DELIVERED)
    print(
        f"{given.pictures} pictures of {given.megapixels:g} megapixels: {size:.0f} MB built in"
        f" {took:.0f} s, {took / given.pictures:.1f} s a picture; {took / once:.1f} times writing the"
        f" finals alone ({once:.0f} s). Memory {before:.0f} MB before, {after:.0f} MB at most."
    )


if __name__ == "__main__":
    main()
