"""What the server's tests share: a small picture with two regions, and doing all waiting work at
once.
"""

from __future__ import annotations

from builders import disc, png, textured
from django.core.files.uploadedfile import SimpleUploadedFile

from zweiblick_core.reading import read

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
