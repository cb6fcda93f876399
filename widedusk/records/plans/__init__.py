"""Saved nights."""
