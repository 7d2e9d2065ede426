"""The registry: one module per kind, all with `measure(window, carriers) -> list[Reading] | Abstention` and a `NULL`.

A new kind is one new module and one line here.
"""

from collections.abc import Callable

from ..carriers import Carriers
from ..report import Abstention, Reading
from ..windows import Window
from . import halo, line, repeat, seam, smear, untouched

Measure = Callable[[Window, Carriers], list[Reading] | Abstention]

REGISTRY: dict[str, Measure] = {
    "repeat": repeat.measure,
    "seam": seam.measure,
    "halo": halo.measure,
    "smear": smear.measure,
    "line": line.measure,
    "untouched": untouched.measure,
}
