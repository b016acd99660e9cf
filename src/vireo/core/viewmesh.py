"""The binary buffer a body travels to the screen in. Knows meshes and topology, no kernel.

Little endian, every section 4-byte aligned: 12 x u32 header (magic, version, vertices,
triangles, faces, edges, edge points, bytes of JSON, 4 spare), positions f32x3, normals i8x4,
triangles u32x3, face starts u32, edge starts u32, edge points f32x3, JSON of the topology and of
what picks on it are called.
"""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import numpy as np

from vireo.core.naming import pick_table
from vireo.core.naming.topology import EdgeInfo, FaceInfo, Topology, VertexInfo

if TYPE_CHECKING:
    from vireo.core.kernel.mesh import Mesh

MAGIC = 0x4D5246  # distinct from other buffers by its first word
VERSION = 2


def _round(value: Any) -> Any:
    if isinstance(value, float):
        return round(value, 6)
    if isinstance(value, tuple):
        return [_round(v) for v in value]
    return value


def topology_json(topology: Topology) -> dict[str, Any]:
    """Topology as the screen gets it; `Topology` can be made from it again."""
    return {
        "faces": [_told(f) for f in topology.faces],
        "edges": [_told(e) for e in topology.edges],
        "vertices": [_told(v) for v in topology.vertices],
    }


def _told(item: FaceInfo | EdgeInfo | VertexInfo) -> dict[str, Any]:
    """Without what is not there, and what is seldom so: a name of its own, being a seam."""
    return {
        k: _round(v)
        for k, v in vars(item).items()
        if v is not None and (v or k not in ("own", "seam"))
    }


def kept_as(key: str) -> str:
    """Under what name the buffer of a body is kept on disk."""
    return f"mesh{VERSION}-{key}"


def topology_from(data: dict[str, Any]) -> Topology:
    """The topology `topology_json` told."""

    def read(cls: Any, item: dict[str, Any]) -> Any:
        return cls(**{k: tuple(v) if isinstance(v, list) else v for k, v in item.items()})

    return Topology(
        faces=tuple(read(FaceInfo, f) for f in data["faces"]),
        edges=tuple(read(EdgeInfo, e) for e in data["edges"]),
        vertices=tuple(read(VertexInfo, v) for v in data["vertices"]),
    )


def pack(mesh: Mesh, topology: Topology) -> bytes:
    """The whole buffer of one body."""
    told = {**topology_json(topology), "picks": pick_table(topology)}
    words = json.dumps(told, separators=(",", ":")).encode()
    words += b" " * (-len(words) % 4)
    header = np.zeros(12, dtype="<u4")
    header[:8] = (
        MAGIC, VERSION, len(mesh.points), len(mesh.triangles), len(mesh.face_starts) - 1,
        len(mesh.edge_starts) - 1, len(mesh.edge_points), len(words),
    )  # fmt: skip
    normals = np.zeros((len(mesh.normals), 4), dtype="i1")
    normals[:, :3] = np.clip(np.round(mesh.normals * 127.0), -127, 127)
    return b"".join(
        (
            header.tobytes(),
            mesh.points.astype("<f4").tobytes(),
            normals.tobytes(),
            mesh.triangles.astype("<u4").tobytes(),
            mesh.face_starts.astype("<u4").tobytes(),
            mesh.edge_starts.astype("<u4").tobytes(),
            mesh.edge_points.astype("<f4").tobytes(),
            words,
        )
    )
