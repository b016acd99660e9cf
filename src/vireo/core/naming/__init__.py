"""Names of faces, edges and vertices that survive edits, and picks that use them."""

from vireo.core.naming.pick import (
    Pick,
    Resolved,
    geometry_of,
    like,
    make_pick,
    pick_table,
    ranked,
    resolve,
    swaps,
)
from vireo.core.naming.topology import EdgeInfo, FaceInfo, Topology, VertexInfo

__all__ = [
    "EdgeInfo",
    "FaceInfo",
    "Pick",
    "Resolved",
    "Topology",
    "VertexInfo",
    "geometry_of",
    "like",
    "make_pick",
    "pick_table",
    "ranked",
    "resolve",
    "swaps",
]
