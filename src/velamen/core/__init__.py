"""Rules and computation: no Django, no interface, no files beyond formats."""
