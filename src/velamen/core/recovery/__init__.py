"""Stitch files brought in: read, divided into parts by local geometry, and those turned into shapes."""
