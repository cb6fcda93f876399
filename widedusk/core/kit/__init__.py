"""The rig: optics, and what it weighs."""
