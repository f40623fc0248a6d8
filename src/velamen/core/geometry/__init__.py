"""Regions, outlines and true offsets."""
