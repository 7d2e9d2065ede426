"""Shadows: dark parts of the ground, and where one crosses an outline."""
