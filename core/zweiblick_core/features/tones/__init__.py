"""Tone: what a fill's colours should be, and soft patches in them."""
