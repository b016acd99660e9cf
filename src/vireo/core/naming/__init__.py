"""Names of faces, edges and vertices that survive edits, and picks that use them."""

from vireo.core.naming.pick import Pick, Resolved, make_pick, resolve
from vireo.core.naming.topology import EdgeInfo, FaceInfo, Topology, VertexInfo

__all__ = [
    "EdgeInfo",
    "FaceInfo",
    "Pick",
    "Resolved",
    "Topology",
    "VertexInfo",
    "make_pick",
    "resolve",
]
