"""Edits: what a person changes, each a pure function of the document.

An edit takes a job and gives another one, or raises BadInput with why it cannot be. shapes/ changes geometry and what
keeps it alive, stack/ pieces and their order, brief/ what all of it is sewn on.
"""
