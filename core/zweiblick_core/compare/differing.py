"""The settings in which two attempts differ."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Setting:
    """One setting that differs: its name and what it was in either, None where it was not set."""

    name: str
    before: Any
    after: Any


def differing(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[Setting]:
    """The settings that two attempts do not share, by name. Numbers that are equal are the same
    whether whole or not; True is not 1.
    """

    def alike(one: Any, other: Any) -> bool:
        return bool(one == other) and isinstance(one, bool) == isinstance(other, bool)

    return [
        Setting(name, before.get(name), after.get(name))
        for name in sorted({*before, *after})
        if not (name in before and name in after and alike(before[name], after[name]))
    ]
