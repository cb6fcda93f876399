"""How long, which ISO, how many."""
