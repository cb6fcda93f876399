"""Services outside, each behind a small interface: what asks knows neither address nor protocol."""
