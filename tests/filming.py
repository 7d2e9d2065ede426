"""Shots for tests of the server: footage that is uploaded, and a shot that is made of it."""

from __future__ import annotations

import copy
import hashlib
import io
import zipfile

import cv2
import numpy as np
import pytest
from builders import png
from house import do_all_work, post
from moving import film, video_in

#: The film has so many frames.
FRAMES = 24


_judged: dict[str, object] = {}


def _hashed(shot) -> bytes:
    digest = hashlib.sha256()
    for frame in shot:
        digest.update(np.ascontiguousarray(frame).tobytes())
    return digest.digest()


@pytest.fixture
def judged_once(monkeypatch):
    """The core judges the same frames and masks the same way (its own tests hold it to that), so each
    pair is judged once in a run of these tests.
    """
    from shots import checking

    judge = checking.check_shot

    def once(original, result, drawn, size, progress):
        masks = [(name, at, mask) for name, one in drawn.items() for at, mask in one.items()]
        parts = [_hashed(original), _hashed(result), repr(size).encode()]
        parts += [f"{name} {at}".encode() + mask.tobytes() for name, at, mask in masks]
        key = hashlib.sha256(b"|".join(parts)).hexdigest()
        if key not in _judged:
            _judged[key] = judge(original, result, drawn, size, progress=progress)
        return copy.deepcopy(_judged[key])

    monkeypatch.setattr(checking, "check_shot", once)


def quay(fault: str = "", amount: float = 1.0):
    return film(fault, amount, frames=FRAMES)


def packed(frames, name="quay", first=1) -> bytes:
    """Frames as a ZIP of numbered PNGs in a folder."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        for number, frame in enumerate(frames, first):
            file.writestr(f"{name}/{name}.{number:04}.png", png(frame))
    return out.getvalue()


def masks_of(made, frames=(0,)) -> bytes:
    """A ZIP of masks of some frames, numbered as the frames are."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        for number in frames:
            mask = made.masks[number].astype(np.uint8) * 255
            file.writestr(f"mask.{number + 1:04}.png", cv2.imencode(".png", mask)[1].tobytes())
    return out.getvalue()


@pytest.fixture
def vera(signed_in):
    return signed_in("vera")


@pytest.fixture
def upload(vera, job):
    def send(name: str, data: bytes):
        asked = {"name": name, "size": len(data), "what": "footage"}
        begun = post(vera, f"/api/jobs/{job.pk}/uploads/", asked)
        if begun.status_code != 201:
            return begun
        answer = vera.put(
            f"/api/uploads/{begun.json()['key']}/0/",
            data,
            content_type="application/octet-stream",
        )
        return answer

    return send


@pytest.fixture
def kept(upload, judged_once):
    """Upload footage and have it read; its row."""

    def keep(name: str, data: bytes):
        from shots.models import Footage

        answer = upload(name, data)
        assert answer.status_code == 200, answer.content
        do_all_work()
        return Footage.objects.get(pk=answer.json()["footage"])

    return keep


@pytest.fixture
def video(tmp_path):
    def made(frames) -> bytes:
        return video_in(tmp_path / "shot.mkv", frames, "ffv1", "bgr0").read_bytes()

    return made


@pytest.fixture
def shot(vera, job, kept, video):
    """The quay with two attempts, of which the first flickers; its outline is drawn in one frame."""
    from shots.models import Shot

    wrong, right = quay("flicker", 2.0), quay()
    first = kept("quay.zip", packed(wrong.original))
    results = [
        kept("quay-a.mkv", video(wrong.result)),
        kept("quay-b.mkv", video(right.result)),
    ]
    masks = kept("quay-mask.zip", masks_of(wrong))
    asked = {
        "name": "Across the quay",
        "original": first.pk,
        "masks": masks.pk,
        "attempts": [{"footage": one.pk, "method": "tracked fill"} for one in results],
    }
    answer = post(vera, f"/api/jobs/{job.pk}/shots/", asked)
    assert answer.status_code == 201, answer.content
    return Shot.objects.get()


@pytest.fixture
def examined(shot):
    do_all_work()
    return shot


@pytest.fixture
def ruling(vera, examined):
    attempt, region = examined.attempts.get(number=1), examined.regions.get()

    def say(first, last, what, revision, words=""):
        return post(
            vera,
            f"/api/shot-attempts/{attempt.pk}/verdicts/",
            {
                "region": region.pk,
                "first": first,
                "last": last,
                "ruling": what,
                "revision": revision,
                "words": words,
            },
        )

    return say


def shot_fixtures():
    """The fixtures of this module by name, for a module of tests to take over; as imports they would be
    taken for what their tests' parameters hide.
    """
    return {
        one.__name__: one
        for one in (vera, judged_once, upload, kept, video, shot, examined, ruling)
    }
