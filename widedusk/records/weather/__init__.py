"""Forecasts as they were fetched."""
