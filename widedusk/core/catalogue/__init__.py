"""What there is to photograph: the open list of deep-sky objects and wide subjects it lacks."""
