"""How often what was tried held: counts with the uncertainty that their number leaves."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict, dataclass
from statistics import median

from scipy.stats import binomtest

#: Fewer than this are said to be few.
FEW = 5


@dataclass(frozen=True)
class Share:
    """`count` of `of`, with its 95 % Wilson score interval (Wilson, Probable inference, the law of
    succession, and statistical inference, 1927, doi:10.1080/01621459.1927.10502953); 0 to 1 where
    there is none.
    """

    count: int
    of: int
    low: float
    high: float

    @property
    def few(self) -> bool:
        """Whether they are too few to say much."""
        return self.of < FEW

    def to_dict(self) -> dict[str, float | bool]:
        """As plain JSON values."""
        return {**asdict(self), "few": self.few}


def share(count: int, of: int) -> Share:
    """Raises: ValueError: more of them than there are, or fewer than none."""
    if not 0 <= count <= of:
        raise ValueError(f"{count} of {of}")
    if of == 0:
        return Share(0, 0, 0.0, 1.0)
    found = binomtest(count, of).proportion_ci(0.95, "wilson")
    return Share(count, of, round(float(found.low), 3), round(float(found.high), 3))


@dataclass(frozen=True)
class Ruled:
    """A region that a person ruled on in one attempt. `name`: the method or the maker; `order`:
    grows with the attempts of a picture; `held`: it passed, at a size at least.
    """

    name: str
    backdrop: str
    region: int
    order: int
    held: bool


def firsts(rows: Iterable[Ruled]) -> dict[tuple[str, str], Share]:
    """By name and backdrop, how many regions held at the first attempt. What came after it was made
    with knowledge of it, and does not count.
    """
    first: dict[tuple[str, int], Ruled] = {}
    for row in rows:
        key = (row.name, row.region)
        if key not in first or row.order < first[key].order:
            first[key] = row
    counts: dict[tuple[str, str], list[bool]] = {}
    for row in first.values():
        counts.setdefault((row.name, row.backdrop), []).append(row.held)
    return {key: share(sum(held), len(held)) for key, held in sorted(counts.items())}


def together(shares: dict[tuple[str, str], Share]) -> dict[str, Share]:
    """By name, over all backdrops."""
    found: dict[str, tuple[int, int]] = {}
    for (name, _), one in shares.items():
        count, of = found.get(name, (0, 0))
        found[name] = (count + one.count, of + one.of)
    return {name: share(count, of) for name, (count, of) in found.items()}


def rounds(rows: Iterable[Ruled]) -> dict[str, float]:
    """By name, the median number of its attempts that a region took until one held; regions in which
    none did are left out.
    """
    by_region: dict[tuple[str, int], list[Ruled]] = {}
    for row in rows:
        by_region.setdefault((row.name, row.region), []).append(row)
    took: dict[str, list[int]] = {}
    for (name, _), some in by_region.items():
        some.sort(key=lambda row: row.order)
        until = next((number for number, row in enumerate(some, 1) if row.held), None)
        if until is not None:
            took.setdefault(name, []).append(until)
    return {name: float(median(some)) for name, some in took.items()}
