"""Fixes: edits that end a finding, each built before it is offered, and offered only if nothing else comes of it."""
