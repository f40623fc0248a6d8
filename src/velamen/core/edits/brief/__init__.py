"""Edits of the brief: what changes with it, to be taken or left, and the design made to a finished width."""
