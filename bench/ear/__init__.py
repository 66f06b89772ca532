"""Training of the ear: scores written by our own code, rendered, and a small network taught to hear beats in them."""
