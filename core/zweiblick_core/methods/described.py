"""The built-in methods in words, for whoever chooses one: what each is good for and what it asks."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class Asks:
    """One setting of a method's own. `kind`: "number", "pixels", "switch" or "offset" (where to
    take it from: dx, dy in pixels).
    """

    name: str
    words: str
    kind: str
    default: float | bool | None = None
    low: float = 0.0
    high: float = 0.0


@dataclass(frozen=True)
class Described:
    """A method. `takes`: whether another seed gives another result; `backdrops`: where it is worth
    a trial first (`rules.backdrops`).
    """

    name: str
    words: str
    backdrops: tuple[str, ...]
    takes: bool = False
    asks: tuple[Asks, ...] = field(default=())


_OFFSET = Asks("offset", "taken from", "offset")
_SCALE = Asks("scale", "made at this part of its size", "number", 0.5, 0.25, 1.0)

#: In the order in which they are offered.
DESCRIBED: tuple[Described, ...] = (
    Described(
        "copy that fits its rim",
        "copies the place whose surroundings continue best, blended in",
        ("straight structure", "fine texture", "organic", "crowded", "water", "frame edge"),
        asks=(Asks("blend", "blended, else straight", "switch", True),),
    ),
    Described(
        "exemplar fill",
        "pieces of the surroundings, shifted; several takes differ",
        ("organic", "fine texture", "water"),
        takes=True,
        asks=(_SCALE, Asks("margin", "from how far around", "pixels", 160, 20, 1000)),
    ),
    Described("gradient fill", "a smooth surface, for skies and plain walls", ("plain gradient",)),
    Described(
        "frequency-selective fill",
        "continues regular texture as a sum of waves; slow",
        ("fine texture", "straight structure"),
        asks=(Asks("scale", "made at this part of its size", "number", 1.0, 0.1, 1.0),),
    ),
    Described(
        "straight copy",
        "copied as it is from the pinned spot",
        ("frame edge", "straight structure"),
        asks=(_OFFSET,),
    ),
    Described(
        "blended copy",
        "copied from the pinned spot, in this place's tone",
        ("organic", "fine texture"),
        asks=(_OFFSET,),
    ),
    Described(
        "marching diffusion",
        "carries colour in from the rim; for small things only",
        ("plain gradient",),
        asks=(Asks("radius", "neighbourhood", "pixels", 5, 1, 50),),
    ),
    Described(
        "flow diffusion",
        "carries colour in along edges; for small things only",
        ("plain gradient",),
        asks=(Asks("radius", "neighbourhood", "pixels", 5, 1, 50),),
    ),
    Described(
        "biharmonic fill",
        "carries colour and its slope in; up to 40 000 pixels",
        ("plain gradient",),
    ),
)
BY_NAME = {one.name: one for one in DESCRIBED}


def refuse_settings(method: str, settings: dict[str, object]) -> str | None:
    """Why settings cannot stand for a method; None if they can."""
    described = BY_NAME.get(method)
    if described is None:
        return f"there is no built-in method “{method}”"
    asks = {one.name: one for one in described.asks}
    for name, value in settings.items():
        one = asks.get(name)
        if one is None:
            return f"“{method}” knows no setting “{name}”"
        if one.kind == "offset":
            fits = (
                isinstance(value, list)
                and len(value) == 2
                and all(isinstance(v, int) and abs(v) < 100_000 for v in value)
            )
        elif one.kind == "switch":
            fits = isinstance(value, bool)
        else:
            number = isinstance(value, int | float) and not isinstance(value, bool)
            fits = number and one.low <= float(str(value)) <= one.high
        if not fits:
            span = f" between {one.low:g} and {one.high:g}" if one.high else ""
            return f"“{method}”, {one.words}: a value{span} is needed"
    missing = [
        one.words for one in described.asks if one.kind == "offset" and one.name not in settings
    ]
    return f"“{method}” needs to know: {missing[0]}" if missing else None
