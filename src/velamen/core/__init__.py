"""Rules and computation: no Django, no interface, no files beyond artwork in and outputs out.

Data flows one way, and a package reads only what stands before it here:

geometry, materials     areas and lines; kinds of material with their rows
artwork, job            files and pictures in; the document that a shop keeps
values                  settings with rules: how a number is matched, and why
stitching               geometry to needle points
timeline                operations in order, what lies there at every moment
plan, proofs            needle points in one list, its figures; what may go wrong
constructions           appliqué, fills, grounds: each one module that brings all of its own
building                a document built: operations, values at their moments, stitches, plan
edits, fixes            a document changed by a person, or to end a finding
outputs, variants       files and pictures; several builds side by side
"""
