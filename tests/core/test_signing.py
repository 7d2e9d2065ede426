"""When a picture can be signed off, and under which terms a result may be used."""

from dataclasses import replace

import pytest

from zweiblick_core.rules.rights import TERMS, USES, refuse_terms
from zweiblick_core.rules.signing import Standing, refuse_signing

GOOD = Standing(4, examined=True, failing=(), out=(), terms=(), outside=0)


def test_what_holds_everywhere_is_examined_and_free_of_claims_can_be_signed():
    assert refuse_signing(GOOD) == []


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"examined": False}, "not examined"),
        ({"failing": ("wall", "phone")}, "at wall and phone"),
        ({"out": (2, 3)}, "Slip 2, 3 is still out"),
        ({"terms": ("its terms say so",)}, "cannot be used: its terms say so"),
        ({"outside": 2}, "2 places outside every region"),
        ({"signed": True}, "reopen it first"),
    ],
)
def test_each_thing_in_the_way_is_said(change, words):
    (reason,) = refuse_signing(replace(GOOD, **change))
    assert words in reason


def test_all_that_is_in_the_way_is_said_at_once():
    standing = replace(GOOD, examined=False, failing=("wall",), out=(1,), outside=1)
    assert len(refuse_signing(standing)) == 4


@pytest.mark.parametrize("use", USES)
@pytest.mark.parametrize("terms", ["", *TERMS])
def test_terms_are_refused_where_they_do_not_allow_the_use(terms, use):
    allowed = not terms or use in TERMS[terms]
    reason = refuse_terms(terms, use)
    assert (reason is None) == allowed
    assert allowed or (terms in reason and use in reason)


def test_private_use_only_is_not_for_a_paying_client_and_unknown_terms_are_no_terms():
    assert refuse_terms("private use only", "paying client") is not None
    with pytest.raises(KeyError):
        refuse_terms("whatever", "private")
