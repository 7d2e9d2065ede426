"""Terms of use: whether what a service makes may be used as a job needs."""

from __future__ import annotations

#: How a job's pictures are used, from the least to the most that has to be allowed.
USES = ("private", "paying client")
#: Terms under which a result is had, and the uses that they allow.
TERMS: dict[str, tuple[str, ...]] = {
    "any use": ("private", "paying client"),
    "private use only": ("private",),
}


def refuse_terms(terms: str, use: str) -> str | None:
    """Why a result had under these terms cannot be used in a job; None if it can.

    Args:
        terms: of `TERMS`; empty where nobody said, which is not refused.
        use: of `USES`.

    Raises:
        KeyError: terms that nobody knows.
    """
    if not terms or use in TERMS[terms]:
        return None
    return f"its terms say “{terms}”, and this job is for a {use}"
