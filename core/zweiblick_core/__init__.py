"""Zweiblick's core: numpy arrays in, dataclasses out. It knows pictures and rules, and nothing of
servers or screens.
"""

__version__ = "0.3.0"
