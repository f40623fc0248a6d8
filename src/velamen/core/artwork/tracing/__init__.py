"""Pictures traced: read, reduced to few colours, divided into regions with shared borders."""
