"""Edits of the stack: pieces moved, put round others, given values and routes, stops shared.

Read first: pieces.py. An order of its own is a list of operations' keys in the job; taking it apart is dropping it.
"""
