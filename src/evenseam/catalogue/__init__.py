"""A stand-in for a licensed-music service: a small application of its own that Even Seam talks to over HTTP only."""
