"""Places, and the spots one can stand on."""
