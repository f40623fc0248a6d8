"""Passes and hand steps in order, joined into one stitch plan."""
