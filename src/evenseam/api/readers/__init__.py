"""Rows and core values to what goes out, by resource."""
