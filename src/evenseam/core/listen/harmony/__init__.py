"""Keys and notes: which sound, which ring on, and the key of it all."""
