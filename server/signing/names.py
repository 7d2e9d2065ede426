"""Names of files and folders that every system takes."""

from __future__ import annotations

import re


def plain_name(words: str, otherwise: str) -> str:
    """Words as small letters, digits and hyphens; `otherwise` where nothing is left of them."""
    return re.sub(r"[^\w-]+", "-", words, flags=re.ASCII).strip("-").lower() or otherwise


def told_apart(names: list[str]) -> list[str]:
    """Names; where two are the same all get their number: no file takes another's place."""
    if len(set(names)) == len(names):
        return names
    return [f"{name}-{number}" for number, name in enumerate(names, 1)]
