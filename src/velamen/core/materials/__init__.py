"""Bases, stabilizers, hoops, cloths and threads, from data files."""
