"""Edits of shapes: brought in, drawn, arranged, bent, combined, cut by dies.

Read first: choosing.py (chosen shapes, and what holds them), bring_in.py (how a shape gets its piece).

live shape   made by a typed text or as an outline round others, and made again when those change
curve node   a place on an outline with two handles; shapes keep them beside their rings where they have them
"""
