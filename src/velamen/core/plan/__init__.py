"""The plan: passes and stops as one list of commands, its figures, and the section through the stack.

Read first: stitch_plan.py. routing.py orders pieces of one thread; section.py cuts the stack along a line.

block   rows sewn without a change of pass      halt    a stop of the machine, in its row
load    a thread taken up by the machine        sheet   a layer as it lies in a section
"""
