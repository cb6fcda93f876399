"""What spoils frames, how it shows, and what to do about it."""
