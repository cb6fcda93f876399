"""Pictures off the card, and what is measured of them."""
