"""Variants: one or two values of a piece tried out side by side."""
