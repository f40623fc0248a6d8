"""A job built: the one way from a document to its plan.

Read first: skeleton.py (operations in order, before any value), matched.py (values, each for its moment), build.py
(needle points, routes, plan); works.py and following.py make ready what a construction works on. Everything here is
kept by content, so that an edit computes only what it touches.
"""
