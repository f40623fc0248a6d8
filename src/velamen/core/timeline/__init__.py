"""The timeline: what is done to a job, one operation after another, and what lies where at every moment of it.

Read first: operation.py (one operation), effects.py (what it changes), layers.py (what lies where), order.py (which
comes first), refusals.py (which order cannot be), stops.py (several done at one stop), hooping.py (what the brief
does before the first stitch and after the last).

operation   one thing done by needle or by hand           part      its name within its piece, "tack" of "p3:tack"
effect      what it changes in what lies there            layer     one material and where it lies
need        an operation of its own piece before it       guard     an area closed to other pieces for a while
moment      a place in the order: what lies there then    late      left until everything is sewn
"""
