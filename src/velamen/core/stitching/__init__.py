"""Needle points from geometry: runs, zigzags and satins."""
