"""Jobs, their revisions, and the board."""
