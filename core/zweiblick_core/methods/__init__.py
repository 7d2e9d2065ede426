"""Built-in ways to remove something, each on a window around the mask, deterministic for a seed."""

from .catalogue import METHODS, grown, outline_mask, remove
from .described import BY_NAME, DESCRIBED, Described, refuse_settings
from .fills import (
    biharmonic,
    blended_copy,
    diffusion,
    exemplar,
    frequency_selective,
    gradient,
    straight_copy,
)
from .finishing import original_outside, with_tone
from .fitting import best_offset, with_grain
from .plan import Step, plan, stands_out

__all__ = [
    "BY_NAME",
    "DESCRIBED",
    "METHODS",
    "Described",
    "Step",
    "best_offset",
    "biharmonic",
    "blended_copy",
    "diffusion",
    "exemplar",
    "frequency_selective",
    "gradient",
    "grown",
    "original_outside",
    "outline_mask",
    "plan",
    "refuse_settings",
    "remove",
    "stands_out",
    "straight_copy",
    "with_grain",
    "with_tone",
]
