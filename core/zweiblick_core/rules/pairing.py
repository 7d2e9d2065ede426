"""Which of many files belong together, by their names. A proposal: a person corrects it before
anything is stored.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import PurePath

#: Words in a file's name that tell its part, once letters and digits are all that is left.
MASK_WORDS = {"mask", "masks", "matte", "alpha", "maske"}
ORIGINAL_WORDS = {
    "original",
    "originals",
    "orig",
    "source",
    "sources",
    "before",
    "raw",
    "vorher",
    "vorlage",
}
RESULT_WORDS = {
    "result",
    "results",
    "after",
    "retouched",
    "retouch",
    "removed",
    "clean",
    "final",
    "edit",
    "edited",
    "fill",
    "filled",
    "attempt",
    "take",
    "out",
    "output",
    "nachher",
    "ergebnis",
    "retusche",
    "retuschiert",
    "bearbeitet",
}
#: Which version a file is says neither its picture nor its part.
_VERSION = re.compile(r"v\d{1,3}")
#: Words that were grown together are told apart by their capitals: "BoatShedOriginal".
_GROWN = re.compile(r"(?<=[a-z0-9äöüß])(?=[A-ZÄÖÜ])")


@dataclass
class Group:
    """One picture's files by name. `original` may be missing: then a person says which it is.
    `outlines`: by result, a mask that carries that result's own words: what it was made with.
    `known`: the picture that is there already, by its name, that these are further results of.
    """

    name: str
    original: str | None = None
    results: list[str] = field(default_factory=list)
    mask: str | None = None
    outlines: dict[str, str] = field(default_factory=dict)
    known: str | None = None


def _tokens(name: str) -> list[str]:
    stem = _GROWN.sub(" ", PurePath(name).stem).lower()
    return [
        token
        for token in re.split(r"[^0-9a-zäöüß]+", stem)
        if token and not _VERSION.fullmatch(token)
    ]


def own_words(name: str) -> list[str]:
    """The words of a file's name, as written, that say neither its part nor its number: a picture's
    name, and how the file was made.
    """
    stem = _GROWN.sub(" ", PurePath(name).stem)
    words = [word for word in re.split(r"[\W_]+", stem) if word and not _VERSION.fullmatch(word)]
    parts = MASK_WORDS | ORIGINAL_WORDS | RESULT_WORDS
    return [word for word in words if not word.isdigit() and _split(word.lower()) not in parts]


def _split(token: str) -> str:
    """A part word may carry a number: mask2, take03."""
    return re.sub(r"\d+$", "", token)


def part_of(name: str) -> tuple[list[str], str | None]:
    """A name's own tokens, and the part its other tokens tell: "mask", "original", "result" or
    None.
    """
    own: list[str] = []
    part: str | None = None
    for token in _tokens(name):
        word = _split(token) or token
        if word in MASK_WORDS:
            part = "mask"
        elif word in ORIGINAL_WORDS and part is None:
            part = "original"
        elif word in RESULT_WORDS and part is None:
            part = "result"
        else:
            own.append(token)
    return own, part


def _known_of(name: str, pictures: Iterable[str]) -> str | None:
    """The picture whose name a file's begins with and says more than; the longest name counts."""
    own, part = part_of(name)
    fits = [
        picture
        for picture in pictures
        if (named := part_of(picture)[0])
        and own[: len(named)] == named
        and (len(own) > len(named) or part == "result")
        and part not in ("original", "mask")
    ]
    return max(fits, key=lambda picture: len(part_of(picture)[0]), default=None)


def pair(names: Iterable[str], pictures: Iterable[str] = ()) -> list[Group]:
    """Group file names into pictures. What begins with the name of one of `pictures`, which are
    there already, is a further result of it, unless its own original came along.

    The shortest name of a family without a part word is its original, others that begin with it are
    its results:
    "quay.jpg", "quay-fortnimm.jpg", "quay_mask.png". Sorted by name; nothing is ever left out.
    """
    files = list(dict.fromkeys(names))
    there = list(pictures)
    late = {name: found for name in files if (found := _known_of(name, there)) is not None}
    originals = {tuple(part_of(name)[0]) for name in files if name not in late}
    late = {
        name: found for name, found in late.items() if tuple(part_of(found)[0]) not in originals
    }
    further = [
        Group(found, results=[name for name in files if late.get(name) == found], known=found)
        for found in dict.fromkeys(late.values())
    ]
    return sorted(
        further + _paired([name for name in files if name not in late]),
        key=lambda group: group.name,
    )


def _begins_its_own(
    name: str,
    families: list[tuple[list[str], list[str]]],
    parts: dict[str, tuple[list[str], str | None]],
) -> bool:
    """Whether a name that another picture's begins is a picture of its own: it is a file of the
    same kind as that one's first, and others that are no masks say more than it does, as in
    "jetty.jpg", "jetty-rope.jpg", "jetty-rope-hand.png".
    """
    own, part = parts[name]
    tokens, members = max(families, key=lambda family: len(family[0]))
    ending = PurePath(name).suffix.lower()
    if part is not None or own == tokens or PurePath(members[0]).suffix.lower() != ending:
        return False
    return any(
        other[1] != "mask" and len(other[0]) > len(own) and other[0][: len(own)] == own
        for other in parts.values()
    )


def _paired(files: list[str]) -> list[Group]:
    parts = {name: part_of(name) for name in files}
    families: list[tuple[list[str], list[str]]] = []
    for name in sorted(
        parts,
        key=lambda name: (len(parts[name][0]), parts[name][1] not in (None, "original"), name),
    ):
        tokens = parts[name][0]
        fits = [
            family for family in families if tokens[: len(family[0])] == family[0] and family[0]
        ]
        if fits and not _begins_its_own(name, fits, parts):
            max(fits, key=lambda family: len(family[0]))[1].append(name)
        else:
            families.append((tokens, [name]))
    groups = []
    for tokens, members in families:
        group = Group(" ".join(tokens).capitalize() or PurePath(members[0]).stem)
        masks = [name for name in members if parts[name][1] == "mask"]
        group.mask = masks[0] if masks else None
        rest = [name for name in members if name not in masks]
        marked = [name for name in rest if parts[name][1] == "original"]
        bare = [name for name in rest if parts[name][1] is None and parts[name][0] == tokens]
        group.original = marked[0] if marked else bare[0] if bare else None
        results = [name for name in rest if name != group.original]
        of = {tuple(parts[name][0][len(tokens) :]): name for name in results}
        for mask in masks[1:]:
            words = tuple(parts[mask][0][len(tokens) :])
            whose = of.get(words)
            if words and whose is not None and whose not in group.outlines:
                group.outlines[whose] = mask
        made_with = set(group.outlines.values())
        group.results = results + [mask for mask in masks[1:] if mask not in made_with]
        groups.append(group)
    return groups
