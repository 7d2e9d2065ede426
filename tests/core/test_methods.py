import numpy as np
import pytest
from builders import disc, textured

from zweiblick_core import methods
from zweiblick_core.errors import Refused

PICTURE = textured(160, 200)
MASK = disc(PICTURE.shape[:2], 90, 80, 14)

MAKERS = {
    "marching": lambda: methods.diffusion(PICTURE, MASK), "flow": lambda: methods.diffusion(PICTURE, MASK, front="flow"),
    "exemplar": lambda: methods.exemplar(PICTURE, MASK, seed=3, margin=40), "straight": lambda: methods.straight_copy(PICTURE, MASK, (50, 5)),
    "feathered": lambda: methods.straight_copy(PICTURE, MASK, (50, 5), feather=4), "blended": lambda: methods.blended_copy(PICTURE, MASK, (50, 5)),
}


@pytest.mark.parametrize("name", MAKERS)
def test_a_method_changes_the_mask_and_nothing_else_and_is_the_same_each_time(name):
    before = PICTURE.copy()
    first, second = MAKERS[name](), MAKERS[name]()
    assert np.array_equal(first, second) and np.array_equal(PICTURE, before)
    assert np.array_equal(first[~MASK], PICTURE[~MASK]) and (first[MASK] != PICTURE[MASK]).any()


def test_a_source_outside_the_picture_is_refused():
    with pytest.raises(Refused, match="outside"):
        methods.straight_copy(PICTURE, MASK, (500, 0))
    with pytest.raises(Refused, match="marks nothing"):
        methods.diffusion(PICTURE, np.zeros_like(MASK))
