"""What to expect of music that nobody has listened to yet: its length and tempo are all that is known of it.

A length says how many seams a slot will take, and how well it is likely to come out: the tables are the medians of what 127
recordings of all kinds came to by their forecasts, at slots of a tenth to eight times their length. A tempo says which hits
lie whole beats apart.
"""

from collections.abc import Sequence

import numpy as np

from evenseam.core.plan.brief import Aim
from evenseam.core.plan.judging.forecast import Outlook, share_with_hits, within_reach

# Of slots as so many times the length of the music: how well they suit (0 to 100), and the seams they take.
_TIMES = (0.11, 0.21, 0.3, 0.4, 0.55, 0.75, 0.92, 0.985, 0.995, 1.005, 1.015, 1.15, 1.5, 1.75, 2.0, 2.5, 3.2, 4.2, 7.0)
_SUITS = (18.0, 28.0, 32.0, 38.0, 45.0, 52.0, 60.0, 62.0, 99.0, 99.0, 62.0, 62.0, 61.0, 61.0, 58.0, 56.0, 51.0, 44.0, 32.0)
_SEAMS = (1, 1, 1, 1, 1, 1, 1, 1, 0, 0, 1, 1, 1, 1, 2, 2, 3, 5, 10)


def expected(length_samples: int, beat_samples: int, slot_samples: int, aims: Sequence[Aim] = ()) -> Outlook:
    """What music of some length and beat (0: none) is likely to do in a slot, with these hits in it.

    It can be far better or worse: of two slots in three it suits within 15 of what is said here.
    """
    times = np.log(max(1, slot_samples) / max(1, length_samples))
    suits, seams = (float(np.interp(times, np.log(_TIMES), values)) for values in (_SUITS, _SEAMS))
    reachable, count = within_reach(aims, beat_samples), round(seams)
    words = "as it is" if not count else f"about {count} seam{'s' if count > 1 else ''}"
    return Outlook(round(suits * share_with_hits(reachable, len(aims))), None, count, "", 0.0, reachable, words)
