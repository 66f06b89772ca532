"""Routers, by resource."""
