"""Wrong passwords slow down: whoever guesses waits longer and longer, and nobody is locked out.

Every attempt is counted before its password is looked at, so many at once count as many. Attempts for a name from one address
wait by their own number; what others fail for the same name from elsewhere costs its owner a few seconds at most.
"""

from __future__ import annotations

from datetime import timedelta

WINDOW = timedelta(minutes=15)
FREE = 3
"""So many attempts in the window cost nothing."""

MOST_S = 30.0
MOST_BY_OTHERS_S = 4.0
FREE_OF_ADDRESS = 30
"""Many people may sit behind one address."""


def delay_s(*, here: int, for_name: int, from_address: int) -> float:
    """Seconds that an attempt waits before its password is looked at.

    here: attempts for this name from this address in the window, this one too; for_name: from everywhere; from_address: for all
    names. Doubles from the fourth on: 1, 2, 4 ... 30 s.
    """
    own = 2.0 ** (here - FREE - 1) if here > FREE else 0.0
    others = min(2.0 ** (for_name - here - FREE - 1), MOST_BY_OTHERS_S) if for_name - here > FREE else 0.0
    crowd = 2.0 ** min(from_address - FREE_OF_ADDRESS - 1, 5) if from_address > FREE_OF_ADDRESS else 0.0
    return min(max(own, others, crowd), MOST_S)
