"""What was gathered on earlier nights."""
