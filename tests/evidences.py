"""Evidence and findings as tests need them: what a rule looks at is given, all else is nothing."""

from __future__ import annotations

import types
import typing
from dataclasses import MISSING, fields, is_dataclass

from zweiblick_core import evidence
from zweiblick_core.report import Finding, Measure, Natural, Signal

#: How each kind is mostly told.
OF = {
    "repeat": evidence.Copy,
    "seam": evidence.Rim,
    "halo": evidence.Rim,
    "smear": evidence.Detail,
    "soft": evidence.Detail,
    "grain": evidence.Detail,
    "line": evidence.Lines,
    "residue": evidence.Kept,
    "tone": evidence.Tone,
    "shadow": evidence.Shadow,
    "invented": evidence.Foreign,
    "overreach": evidence.Outside,
    "untouched": evidence.Unchanged,
}


def shown(kind, **given):
    """Evidence of a kind of flaw, or of a class of it."""
    return _filled(OF.get(kind, evidence.Own) if isinstance(kind, str) else kind, given)


def _filled(wanted, given):
    hints = typing.get_type_hints(wanted)
    values = {}
    for field in fields(wanted):
        inner = hints[field.name]
        if isinstance(inner, types.UnionType):
            inner = typing.get_args(inner)[0]
        value = given.get(field.name, MISSING)
        if value is MISSING:
            if field.default is MISSING and field.default_factory is MISSING:
                values[field.name] = _nothing(inner)
        elif typing.get_origin(inner) is tuple and is_dataclass(typing.get_args(inner)[0]):
            each = typing.get_args(inner)[0]
            values[field.name] = tuple(_filled(each, one) for one in value)
        else:
            values[field.name] = _filled(inner, value) if isinstance(value, dict) else value
    assert set(given) <= {field.name for field in fields(wanted)}, given
    return wanted(**values)


def _nothing(kind):
    if is_dataclass(kind):
        return _filled(kind, {})
    return kind() if kind in (float, int, bool, str) else ()


MEASURE = Measure("m", 3.0, "u", Natural(0.0, 1.0, 12, "outline"))
SIGNAL = Signal(((0.25, 1.0, 0.0),), 10, 100)


def finding(kind, bbox, severity=0.5, sure=0.8, **evidence):
    """A finding of which all but these is of no account."""
    seen = shown(kind, **evidence)
    return Finding(kind, None, 0.9, sure, severity, "clear", bbox, [], SIGNAL, MEASURE, seen)
