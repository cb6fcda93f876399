"""Rigs and what they are made of."""
