"""The trade, computed. Imports nothing from Django, the web or the database."""
