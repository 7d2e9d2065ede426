"""What the server's tests share: a small picture with two regions, and doing all waiting work at
once.
"""

from __future__ import annotations

import numpy as np
from builders import disc, filled, holding, png, textured, with_thing
from django.core.files.uploadedfile import SimpleUploadedFile

from zweiblick_core.io import read

TRUTH = textured(300, 400, seed=4)
MASKS = (disc(TRUTH.shape[:2], 110, 150, 34), disc(TRUTH.shape[:2], 290, 150, 34))
PASSWORD = "a long password"


def do_all_work() -> None:
    """Everything that waits, and what it asks for in turn; each once, whatever becomes of it."""
    from work.models import Work
    from work.tasks import do_work

    tried: set[tuple[int, int]] = set()
    while True:
        # A row that is asked for anew has another token.
        waiting = [
            key
            for key in Work.objects.filter(state="waiting").values_list("pk", "token")
            if key not in tried
        ]
        if not waiting:
            return
        for pk, token in waiting:
            tried |= {(pk, token), (pk, token + 1)}
            do_work(pk)


def settle(rounds: int = 12) -> None:
    """As if the sweeper took up again what was given back because the outside service was away."""
    from work.models import Work

    for _ in range(rounds):
        do_all_work()
        if not Work.objects.filter(kind__in=("order", "slip"), state="waiting").exists():
            return


def post(client, path, body=None):
    """Post JSON."""
    return client.post(path, body or {}, content_type="application/json")


def package_of(client, slip):
    """A slip's package, built as it stands."""
    assert post(client, f"/api/slips/{slip}/package/").status_code == 202
    do_all_work()
    answer = client.get(f"/api/slips/{slip}/package/")
    assert answer.status_code == 200
    return b"".join(answer.streaming_content)


def pixels_of(attempt):
    """An attempt's pixels, as they are stored."""
    from images.decoding import blob_bytes

    return read(blob_bytes(attempt.image.blob)).pixels


def returned(client, slip, pixels, name="back.png"):
    """Hand a result in as a slip's answer."""
    return client.post(
        f"/api/slips/{slip}/result/",
        {"file": SimpleUploadedFile(name, png(pixels)), "seconds": "300"},
    )


def rule_all(picture, number, people, ruling="passes", size=None):
    from verdicts.models import Cell
    from verdicts.ruling import rule

    for cell in Cell.objects.filter(attempt__picture=picture, attempt__number=number):
        rule(cell.pk, people["vera"], ruling, None, size)


#: A wider picture, with room for a change outside its one region.
WIDE = textured(420, 620, seed=11)
MASK = np.zeros(WIDE.shape[:2], bool)
MASK[160:230, 120:190] = True


def dusted(pixels: np.ndarray, levels: float = 12.0) -> np.ndarray:
    """A patch far from the region, brightened softly."""
    away = np.clip((45 - np.hypot(*np.ogrid[-200:220, -470:150])) / 12, 0, 1)[..., None]
    return np.clip(pixels.astype(float) + levels * away, 0, 255).round().astype(np.uint8)


def bring(picture, name, pixels, people):
    from attempts.intake import Facts, add_attempt

    return add_attempt(picture, name, png(pixels), Facts("method", "built in"), people["vera"])


def overreaching(job, people):
    """A picture whose first attempt is too bright, and whose second holds but changed a patch."""
    from attempts.intake import add_picture

    original = png(with_thing(WIDE, MASK))
    picture = add_picture(job, "Quay", "quay.png", original, [("buoy", MASK)], people["vera"])
    bring(picture, "1.png", filled(WIDE, MASK, WIDE.astype(float) + 26), people)
    bring(picture, "2.png", dusted(holding(WIDE, MASK)), people)
    do_all_work()
    return picture


def say(client, attempt, answer, number=0):
    return post(
        client, f"/api/attempts/{attempt.pk}/outside/", {"number": number, "answer": answer}
    )


def bench(client, picture):
    return client.get(f"/api/pictures/{picture.pk}/bench/").json()
