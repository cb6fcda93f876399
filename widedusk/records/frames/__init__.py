"""Frames of a night: where they come from, what was measured of each, and the person's word on them."""
