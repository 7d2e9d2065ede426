"""How one spot reads in two images."""

import pytest
from django.test import Client
from house import do_all_work

from jobs.models import Picture

pytestmark = pytest.mark.django_db


@pytest.fixture
def asked(checked, people):
    do_all_work()
    client = Client()
    client.force_login(people["vera"])
    picture = Picture.objects.get(name="Slipway")
    attempt = picture.attempts.order_by("id").first()
    return (
        lambda **query: client.get(
            f"/api/pictures/{picture.pk}/spot/",
            {"a": picture.original.pk, "b": attempt.image_id, **query},
        ),
        picture,
        attempt,
    )


def test_a_spot_reads_the_pixels_of_both_images(asked):
    from images.decoding import blob_bytes
    from zweiblick_core.io import read

    ask, picture, attempt = asked
    for x, y in ((0, 0), (picture.original.width - 1, picture.original.height - 1), (40, 30)):
        told = ask(x=x, y=y).json()
        assert "a" in told, told
        assert told["a"]["srgb"] == read(blob_bytes(picture.original.blob)).pixels[y, x].tolist()
        assert told["b"]["srgb"] == read(blob_bytes(attempt.image.blob)).pixels[y, x].tolist()
        assert (told["ciede2000"] == 0) == (told["a"]["srgb"] == told["b"]["srgb"])


@pytest.mark.parametrize(
    "query", [{"x": -1, "y": 0}, {"x": 0, "y": 10**6}, {"x": "left", "y": 0}, {"y": 0}]
)
def test_a_spot_outside_is_refused_in_words(asked, query):
    answer = asked[0](**query)
    assert answer.status_code == 400 and answer.json()


def test_an_image_of_another_picture_is_not_there(asked):
    assert asked[0](x=1, y=1, b=10**6).status_code == 404


def test_a_findings_picture_is_cut_from_the_tiles_and_says_what_is_where(signed_in, checked):
    import base64

    from checks.models import Finding
    from zweiblick_core.io import read

    client = signed_in("vera")
    for finding in Finding.objects.all():
        found = client.get(f"/api/findings/{finding.pk}/picture/").json()
        picture = read(base64.b64decode(found["png"].partition(",")[2]))
        assert (
            (picture.width, picture.height) == (found["width"], found["height"])
            and found["says"]
            and picture.pixels.std() > 1
        )
