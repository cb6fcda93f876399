"""What one points at."""
