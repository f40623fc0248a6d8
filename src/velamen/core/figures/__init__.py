"""Figures: counts, size and time of a plan."""
