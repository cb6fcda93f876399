"""The night itself: darkness, windows, weather, season, Moon, and which spot is best."""
