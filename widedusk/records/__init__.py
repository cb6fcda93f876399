"""What is kept. One Django app per noun family; models and services, no arithmetic."""
