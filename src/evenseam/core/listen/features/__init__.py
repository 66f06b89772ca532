"""What is measured of a sound, and what the networks are shown of it."""
