"""Polar alignment: how exact it must be, and where the pole's stars stand in the polar scope."""
