"""How visible what happens over time is, at one stated size and frame rate.

The eye's sensitivity to a grating that moves or flickers is Kelly's (1979, "Motion and vision. II.
Stabilized spatio-temporal threshold surface", doi:10.1364/JOSA.69.001340) as Daly (1998, "Engineering
observations from spatiovelocity and spatiotemporal visual models", doi:10.1117/12.320110) scaled it for
eyes that are free to move. Motion against what is beside it is seen from a minute of arc a second
(Nakayama and Tyler 1981, doi:10.1016/0042-6989(81)90174-4).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..visibility import Size

#: Daly's constants: overall, retinal and velocity scale; Kelly's: s1, s2, and the cut-off in cycles a
#: degree.
_C0, _C1, _C2, _S1, _S2, _CUT_OFF = 1.14, 0.67, 1.7, 6.1, 7.3, 45.9
#: An eye that fixates drifts by so many degrees a second.
_FIXATING = 0.15
#: Gratings of fewer cycles a degree are seen by their edges.
_COARSEST = 0.5
#: What is just seen to move against what lies beside it, minutes of arc a second.
_MOTION = 1.0
#: The light of a display grows with this power of a level.
GAMMA = 2.2


@dataclass(frozen=True)
class Change:
    """A change over time, whatever the size it is seen at.

    Attributes:
        contrast: of luminance, 0..1 (Michelson). cycles: of its structure for one pixel of the frame.
        hertz: how often it changes a second; 0: it stays.
        speed: pixels a second that it moves against what lies beside it.
        area: pixels.
    """

    contrast: float
    cycles: float
    hertz: float
    area: float
    speed: float = 0.0


def sensitivity(cycles_per_degree: float, hertz: float) -> float:
    """1 over the contrast that is just seen."""
    rho = min(max(cycles_per_degree, _COARSEST), 60.0)
    speed = max(hertz / rho, _FIXATING)
    k = _S1 + _S2 * abs(math.log10(_C2 * speed / 3)) ** 3
    alpha = _C1 * 2 * math.pi * rho
    falls = math.exp(-_C1 * 4 * math.pi * rho * (_C2 * speed + 2) / _CUT_OFF)
    return k * _C0 * _C2 * speed * alpha**2 * falls


def severity(change: Change, size: Size, frame: tuple[int, int]) -> float:
    """0..1, grows with the change.

    Args:
        frame: (width, height) of the original's frames.
    """
    scale = size.scale(*frame)
    per_degree = size.pixels_per_degree
    cycles = change.cycles / scale * per_degree
    # Structure finer than the output's pixels is not shown.
    shown = 1.0 if change.cycles / scale <= 0.5 else 0.0
    units = change.contrast * shown * sensitivity(cycles, change.hertz)
    if change.speed:
        arc = change.speed * scale / per_degree * 60
        units = max(0.0, arc / _MOTION) * min(1.0, units / 2)
    degrees = change.area * (scale / per_degree) ** 2
    gain = (min(degrees, 4.0) / 0.25) ** 0.25 if degrees > 0 else 0.0
    return 1.0 - math.exp(-max(0.0, units * gain - 0.7) / 5.0)
