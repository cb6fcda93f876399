"""Work on what a stranger sent, in a process of its own: bounded in memory and time, cut off from files and network."""
