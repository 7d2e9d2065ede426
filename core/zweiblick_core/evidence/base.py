"""What all evidence has in common, and how it is written to JSON and read from it."""

from __future__ import annotations

import types
import typing
from collections.abc import Sequence
from dataclasses import dataclass, fields, is_dataclass
from functools import cache
from typing import Any, ClassVar

import numpy as np

#: x and y, or more of them, in the original's pixels.
Numbers = Sequence[float] | np.ndarray
Points = Sequence[Sequence[float]] | np.ndarray

#: Of a field: what is worked out with it is not written (`internal`), or None says something of its
#: own and is (`null`).
INTERNAL, NULL = {"internal": True}, {"null": True}

#: Every class by its `type`, the most special first.
_CLASSES: dict[str, list[type[Evidence]]] = {}


@dataclass(frozen=True, eq=False, kw_only=True)
class Evidence:
    """Of one finding.

    Attributes:
        type: how it was recognised, in reports.
        what: which form of it, where there are several.
    """

    type: ClassVar[str]
    what: str | None = None

    def __init_subclass__(cls) -> None:
        super().__init_subclass__()
        _CLASSES.setdefault(cls.type, []).insert(0, cls)

    def to_json(self) -> dict[str, Any]:
        """As a report has it: `type` and every field that is not None. Values are as they are:
        numbers, arrays, dataclasses.
        """
        return {"type": self.type, **_written(self)}

    @classmethod
    def reads(cls, plain: dict[str, Any]) -> bool:
        """Whether JSON of this class's `type` is of this class."""
        return True


@dataclass(frozen=True)
class Lab:
    """A difference of colours, CIELAB."""

    lightness: float
    a: float
    b: float

    @property
    def vector(self) -> np.ndarray:
        """(3,): lightness, a, b."""
        return np.array([self.lightness, self.a, self.b])

    @property
    def size(self) -> float:
        """How large it is, CIE76."""
        return float(np.linalg.norm(self.vector))

    @property
    def chroma(self) -> float:
        """How large it is in colour alone."""
        return float(np.hypot(self.a, self.b))


def _written(value: Any) -> dict[str, Any]:
    return {
        field.name: plain(getattr(value, field.name))
        for field in fields(value)
        if not field.metadata.get("internal")
        and (getattr(value, field.name) is not None or field.metadata.get("null"))
    }


def plain(value: Any) -> Any:
    """Dataclasses as dictionaries without what is None, at any depth."""
    if is_dataclass(value) and not isinstance(value, type):
        return _written(value)
    if isinstance(value, (list, tuple)):
        return [plain(item) for item in value]
    return value


def from_json(stored: dict[str, Any]) -> Evidence:
    """What a stored report says. Keys that are not known are left out; so are fields that an
    earlier version did not write.

    Raises:
        ValueError: of a type that nobody knows, or without what it must have.
    """
    for cls in _CLASSES.get(str(stored.get("type")), []):
        if cls.reads(stored):
            read = _read(cls, stored)
            assert isinstance(read, Evidence)
            return read
    raise ValueError(f"no evidence is of type {stored.get('type')!r}")


@cache
def _hints(cls: type) -> dict[str, Any]:
    return typing.get_type_hints(cls)


def _read(wanted: Any, value: Any) -> Any:
    """A value of JSON as what is wanted: dataclasses, tuples of them, and None; else as it is."""
    if isinstance(wanted, types.UnionType):
        options = [option for option in typing.get_args(wanted) if option is not type(None)]
        return None if value is None else _read(options[0], value)
    if isinstance(wanted, type) and is_dataclass(wanted):
        known = {field.name for field in fields(wanted)}
        hints = _hints(wanted)
        try:
            return wanted(
                **{name: _read(hints[name], item) for name, item in value.items() if name in known}
            )
        except TypeError as error:
            raise ValueError(f"evidence that is not whole: {error}") from None
    if typing.get_origin(wanted) is tuple:
        return tuple(_read(typing.get_args(wanted)[0], item) for item in value)
    return value
