"""Accounts: passwords, sessions, and everything of one person in one file."""
