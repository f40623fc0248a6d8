"""People and the shops they belong to."""
