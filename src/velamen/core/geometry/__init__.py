"""Geometry: areas with holes, lines and curves, as arrays and shapely's vectorised calls.

Read first: region.py (areas and their rings), outline.py (samples along an edge, how far one may go from it),
rails.py (the two lines between which a satin goes).

ring     a closed line (n, 2), its first point not repeated     rail    one of two lines matched point to point
sample   a place on an outline with its normal                  reach   free way of a sample along its normal
stroke   a branch of the skeleton, as wide as its two walls     band    the area on both sides of an edge
"""
