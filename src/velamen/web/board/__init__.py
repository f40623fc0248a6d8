"""The job board: all jobs of a shop, and new ones."""
