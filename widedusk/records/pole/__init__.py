"""Every alignment there was, measured or not."""
