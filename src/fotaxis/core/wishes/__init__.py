"""What a picture must show, one file a kind; a new one is written like even.py and listed here.

wish: what every wish says. WISHES: all kinds by their word in the shot file. balance: the powers that meet the levels wished for.
"""

from __future__ import annotations

from fotaxis.core.wishes import absent, clean, cover, even, level, place, ratio
from fotaxis.core.wishes.wish import WishKind

WISHES: dict[str, WishKind] = {module.KIND.key: module.KIND for module in (level, ratio, even, place, cover, absent, clean)}
