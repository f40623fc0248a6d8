"""What can run long: done outside the web process, in turn between shops, within limits, and kept.

Read first, each:
outside.py  a task handed to another process; whoever asked waits, sees how far it is, and can end it
turns.py    whose task is next
tasks.py    what can be handed over: functions of the core, from plain values to plain values
kept.py     what was worked out, by content, through restarts, up to a size
"""
