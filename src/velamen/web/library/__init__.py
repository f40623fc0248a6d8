"""The shop's library: its own rows over the shipped ones, and presets."""
