"""Built-in ways to remove: each works on a window around the region and leaves every pixel outside the mask as it was."""

from .fills import blended_copy, diffusion, exemplar, straight_copy

__all__ = ["blended_copy", "diffusion", "exemplar", "straight_copy"]
