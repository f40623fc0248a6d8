"""Open files out of a build."""
