"""Rules that work out each value and say why."""
