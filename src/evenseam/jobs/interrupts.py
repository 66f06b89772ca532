"""Ctrl-C reaches all processes of a terminal at once: those that we start and end ourselves are not to hear it."""

import signal
from collections.abc import Iterator
from contextlib import contextmanager
from multiprocessing import resource_tracker


@contextmanager
def unheard() -> Iterator[None]:
    """Processes and threads that are started meanwhile hear no interrupt, nor do those that they start."""
    resource_tracker.ensure_running()  # it would let the signal through again
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
