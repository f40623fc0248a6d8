"""Files out of a job."""
