"""What comes in to what is done: each change in words for undo, and as a function."""
