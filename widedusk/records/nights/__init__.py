"""Nights: planned, packed for, shot and remembered; the trips that string them together and the runs they hold."""
