"""The night out there: what is taken along, and what is taken down."""
