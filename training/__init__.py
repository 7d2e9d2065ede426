"""Fitting what a finding is worth: photographs, flaws made by several hands, splits, fit, figures."""
