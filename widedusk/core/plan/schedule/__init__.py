"""The whole night: which rig shoots what from when to when, the best there is, and how far from the best it may be."""
