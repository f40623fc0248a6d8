"""Rinse proof: does lace hang together by thread alone once the stabilizer is gone, and where is it weakest?

Read first: thread.py (the thread as it lies: holes and strands), then meeting.py (where threads hold one another),
rows.py (satins and fills, and whether anything lies under them), hold.py (all that as a graph), cuts.py and flows.py
(the fewest strands that part it), openings.py (cells that sag, places that turn to wire), proof.py (the whole).
"""
