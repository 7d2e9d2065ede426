"""The registry: one module per kind, all with `measure(window, carriers) -> list[Reading] |
Abstention` and a `NULL`.

A new kind is one new module and one line here.
"""

from collections.abc import Callable

from ..report import Abstention, Reading
from ..scene.carriers import Carriers
from ..scene.window import Window
from . import (
    grain,
    halo,
    invented,
    line,
    repeat,
    residue,
    seam,
    shadow,
    smear,
    soft,
    tone,
    untouched,
)

Measure = Callable[[Window, Carriers], list[Reading] | Abstention]

REGISTRY: dict[str, Measure] = {
    "repeat": repeat.measure,
    "seam": seam.measure,
    "halo": halo.measure,
    "smear": smear.measure,
    "line": line.measure,
    "residue": residue.measure,
    "shadow": shadow.measure,
    "tone": tone.measure,
    "grain": grain.measure,
    "soft": soft.measure,
    "invented": invented.measure,
    "untouched": untouched.measure,
}
