"""Bringing artwork in as regions."""
