"""Flaws by several hands, and clean fills of every hard sort."""
