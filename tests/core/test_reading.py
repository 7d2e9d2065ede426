import io

import cv2
import numpy as np
import pytest
from builders import jpeg, png, textured
from PIL import Image, ImageCms

from zweiblick_core.errors import Refused
from zweiblick_core.io import read, read_mask, share_of


def saved(image, **options):
    buffer = io.BytesIO()
    image.save(buffer, **options)
    return buffer.getvalue()


def test_reads_jpeg_png_and_tiff_alike():
    pixels = textured(60, 80)
    assert np.array_equal(read(png(pixels)).pixels, pixels)
    assert np.array_equal(read(saved(Image.fromarray(pixels), format="TIFF")).pixels, pixels)
    assert np.abs(read(jpeg(pixels, 98)).pixels.astype(int) - pixels).mean() < 4


@pytest.mark.parametrize("orientation", range(1, 9))
def test_the_exif_orientation_is_applied(orientation):
    pixels = np.zeros((20, 30, 3), np.uint8)
    pixels[:10, :10] = 255
    exif = Image.Exif()
    exif[0x0112] = orientation
    turned = read(saved(Image.fromarray(pixels), format="PNG", exif=exif)).pixels
    assert turned.shape[:2] == ((20, 30) if orientation < 5 else (30, 20))
    corner = {
        1: (0, 0),
        2: (0, -1),
        3: (-1, -1),
        4: (-1, 0),
        5: (0, 0),
        6: (0, -1),
        7: (-1, -1),
        8: (-1, 0),
    }[orientation]
    assert turned[corner].min() == 255 and turned.mean() < 60


def test_jpeg_quality_is_read_from_the_tables():
    for quality in (60, 80, 90, 95):
        assert abs((read(jpeg(textured(64, 64), quality)).jpeg_quality or 0) - quality) <= 1
    assert read(png(textured(64, 64))).jpeg_quality is None


def test_sixteen_bits_stay_sixteen_bits():
    deep = (textured(40, 50).astype(np.uint16) * 257 + 13).clip(0, 65535).astype(np.uint16)
    ok, data = cv2.imencode(".png", deep[..., ::-1])
    picture = read(data.tobytes())
    assert ok and picture.depth == 16 and np.array_equal(picture.pixels, deep)


def test_grey_alpha_and_cmyk_become_rgb():
    pixels = textured(40, 50)
    grey = read(saved(Image.fromarray(pixels[..., 0]), format="PNG"))
    assert np.array_equal(grey.pixels[..., 0], pixels[..., 0]) and grey.mode == "L"
    clear = np.dstack([pixels, np.zeros(pixels.shape[:2], np.uint8)])
    assert (read(saved(Image.fromarray(clear, "RGBA"), format="PNG")).pixels == 119).all()
    cmyk = read(saved(Image.fromarray(pixels).convert("CMYK"), format="JPEG", quality=98))
    assert np.abs(cmyk.pixels.astype(int) - pixels).mean() < 6 and cmyk.mode == "CMYK"


def test_an_embedded_profile_is_converted_and_named():
    pixels = textured(40, 50)
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB"))
    picture = read(saved(Image.fromarray(pixels), format="PNG", icc_profile=lab.tobytes()))
    assert "srgb" in picture.profile.lower() and np.array_equal(picture.pixels, pixels)
    assert (
        read(saved(Image.fromarray(pixels), format="PNG", icc_profile=b"not a profile")).profile
        == "unreadable"
    )


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"hello", "not a picture"),
        (jpeg(textured())[:3000], "damaged or cut short"),
        (png(textured())[:5000], "damaged or cut short"),
        (saved(Image.new("RGB", (4, 4)), format="BMP"), "BMP"),
    ],
)
def test_what_cannot_be_read_is_refused_in_one_line(data, words):
    with pytest.raises(Refused, match=words) as caught:
        read(data)
    assert "\n" not in str(caught.value)


def test_too_many_pixels_are_refused_before_decoding():
    with pytest.raises(Refused, match="limit"):
        read(png(textured(100, 100)), most_pixels=5000)


def test_a_missing_file_is_refused(tmp_path):
    with pytest.raises(Refused, match="cannot be opened"):
        read(tmp_path / "nothing.png")


def test_a_mask_must_fit_and_mark_something():
    mask = np.zeros((20, 30), np.uint8)
    with pytest.raises(Refused, match="marks nothing"):
        read_mask(png(mask), (20, 30))
    mask[5, 5] = 255
    assert read_mask(png(mask), (20, 30)).sum() == 1
    with pytest.raises(Refused, match="30x20"):
        read_mask(png(mask), (40, 30))


@pytest.mark.parametrize("size", [(61, 47), (40, 30), (122, 95)])
@pytest.mark.parametrize("what", ["nothing", "everything", "a region", "two regions", "noise"])
def test_how_much_of_each_place_a_mask_covers_is_what_averaging_all_of_it_gives(what, size):
    mask = np.ones((383, 491), bool)
    rng = np.random.default_rng(4)
    if what == "nothing":
        mask[:] = False
    if what == "noise":
        mask = rng.random(mask.shape) < 0.4
    if "region" in what:
        mask[100:171, 33:190] = False
    if what == "two regions":
        mask[300:, 460:] = False
    block = min(mask.shape[0] // size[1], mask.shape[1] // size[0])
    rows, columns = (side // block * block for side in mask.shape)
    coarse = (
        mask[:rows, :columns]
        .reshape(rows // block, block, columns // block, block)
        .mean(axis=(1, 3))
        * 255
    )
    expected = cv2.resize(coarse.round().astype(np.uint8), size, interpolation=cv2.INTER_AREA)
    assert np.abs(share_of(mask, size).astype(int) - expected).max() <= 1


@pytest.mark.parametrize("mode", ["1", "L", "RGB", "RGBA", "P"])
def test_a_mask_is_the_same_however_it_is_stored_also_turned(mode):
    marked = np.zeros((40, 60), bool)
    marked[5:20, 30:44] = True
    image = Image.fromarray(marked.astype(np.uint8) * 255).convert(mode)
    saved = io.BytesIO()
    image.save(saved, "PNG")
    assert np.array_equal(read_mask(saved.getvalue(), marked.shape), marked)
    turned = io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = 6
    image.save(turned, "PNG", exif=exif)
    found = read_mask(turned.getvalue(), (60, 40))
    assert np.array_equal(found, np.rot90(marked, -1))
    found[0, 0] = True  # whoever asked may draw on it


def test_a_mask_that_breaks_off_is_refused():
    saved = io.BytesIO()
    grain = np.random.default_rng(3).integers(0, 255, (200, 300), np.uint8)
    Image.fromarray(grain).save(saved, "PNG")
    with pytest.raises(Refused, match="damaged or cut short"):
        read_mask(saved.getvalue()[:9000], (200, 300))
