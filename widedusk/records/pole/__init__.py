"""Pictures that were measured, what they said of the axis, and every alignment there was."""
