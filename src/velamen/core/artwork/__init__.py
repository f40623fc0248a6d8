"""Artwork: files, typed words and drawn lines turned into regions with holes, at true size.

Read first: read.py (which file it is), svg.py (what comes of it). A region comes with its name; open paths come as
lines. tracing/ does the same for pictures.

subpath   one outline as it was drawn     ring      an outline closed, its direction cleaned
fill rule what of crossing rings is in    typeface  one of the open ones shipped in typefaces/
"""
