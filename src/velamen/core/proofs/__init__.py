"""Findings and proofs over a finished build."""
