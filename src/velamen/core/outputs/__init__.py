"""Outputs: open files and pictures out of a build. stitches.csv is the truth; everything else agrees with it."""
