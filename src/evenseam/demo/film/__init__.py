"""The demo's films: drawn by our own code, with scratch narration."""
