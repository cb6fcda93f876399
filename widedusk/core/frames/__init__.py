"""Pictures off the card: read, find the stars, find out where it looked."""
