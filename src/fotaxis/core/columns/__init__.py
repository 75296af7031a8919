"""What stands in which column of the plain arrays that kernels read: one file per kind of row.

Used as FLAT.NX, HIT.COAT ...; lengths in metres, directions as unit vectors, colours linear Rec. 709.
"""

from fotaxis.core.columns import body as BODY
from fotaxis.core.columns import bounds as BOUNDS
from fotaxis.core.columns import box as BOX
from fotaxis.core.columns import cell as CELL
from fotaxis.core.columns import flat as FLAT
from fotaxis.core.columns import frustum as FRUSTUM
from fotaxis.core.columns import gather as GATHER
from fotaxis.core.columns import group as GROUP
from fotaxis.core.columns import hit as HIT
from fotaxis.core.columns import medium as MEDIUM
from fotaxis.core.columns import node as NODE
from fotaxis.core.columns import place as PLACE
from fotaxis.core.columns import profile as PROFILE
from fotaxis.core.columns import ray as RAY
from fotaxis.core.columns import sample as SAMPLE
from fotaxis.core.columns import segment as SEGMENT
from fotaxis.core.columns import span as SPAN
from fotaxis.core.columns import zone as ZONE

__all__ = [
    "BODY",
    "BOUNDS",
    "BOX",
    "CELL",
    "FLAT",
    "GATHER",
    "GROUP",
    "HIT",
    "MEDIUM",
    "NODE",
    "PLACE",
    "PROFILE",
    "RAY",
    "SAMPLE",
    "SEGMENT",
    "SPAN",
    "FRUSTUM",
    "ZONE",
]
