"""How a person likes to work, remembered."""
