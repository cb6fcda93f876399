"""Runs of frames by other physics than core/simulate, which nothing here imports: the judge was not made with them at hand.

Photons are thrown one by one (galsim): each has a moment within the exposure, a colour, a place in a star's profile. Where stars
are seen is astropy's word. `drawing` says what a night is like and what goes wrong in it, `camera` turns it into files, `series`
has them read and judged like any other, and knows what is true of them.
"""
