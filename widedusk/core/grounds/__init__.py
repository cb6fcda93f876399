"""Where one stands: coordinates as people write them, time zone, compass, brightness of the sky."""
