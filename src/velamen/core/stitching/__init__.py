"""Stitching: geometry to needle points.

Read first: strand.py (what all of it yields), run.py (lines), border.py (edges), column.py and fill.py (areas).

strand   needle points with the role of each stitch       rail      one of the two lines between which a satin goes
lane     a stroke made ready for satin: rails, tips       stroke    a branch of the skeleton, as wide as its walls
level    where a row lies, mm across the frame            stretch   a part of a row inside the region
section  stretches sewn to and fro without a branch       travel    sewing from place to place under later stitches
"""
