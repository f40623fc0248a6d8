"""Proofs and findings: computed geometry that tells what may go wrong, where, and what would end it.

Read first: finding.py (one thing worth telling), proved.py (what a proof says of one piece). edge_cover.py and
standing.py are what constructions prove about their own pieces with; access.py, density.py, thread_ends.py,
materials.py and lettering.py look at a whole plan.
"""
