"""Velamen: specialty embroidery, built in layering order."""
