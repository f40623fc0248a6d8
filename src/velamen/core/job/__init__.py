"""The document of a job: brief, shapes, pieces in stack order, and what belongs to them.

Read first: document.py. Records are frozen; `change` gives another one. regions.py makes areas of shapes.
"""
