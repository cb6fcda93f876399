"""Where things stand in the sky and how bright it is."""
