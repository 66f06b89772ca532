"""The command line: what it is told, what it hears and makes without a server, and what it says."""

import gc

gc.set_threshold(
    100_000
)  # loading modules makes much that stays: looking through it again and again would take a third of a start
