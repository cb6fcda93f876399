"""One night: when a target can be used, and the whole of it as a plan."""
