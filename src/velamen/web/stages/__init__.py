"""The five stages of one job."""
