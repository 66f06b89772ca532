"""The form of a piece: sections and loops, phrases in free time, where it counts in and how it ends."""
