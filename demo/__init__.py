"""A scenario of our own to look around in: invented places, a demo account, dates that follow the coming new Moon."""
