"""Which faces of a leaf lie in the same surface at two poses, all of them at once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vireo.core.assembly.pose import Pose
from vireo.core.naming.topology import FaceInfo

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
#: How far a surface may come off itself (mm), and its axis turn (sine).
_OFF, _TURN = 1e-6, 1e-8
#: Surfaces that have an axis or a normal.
_AXIAL = ("plane", "cylinder", "cone", "torus")


class Surfaces:
    def __init__(self, faces: Sequence[FaceInfo]) -> None:
        self._at = np.array([f.origin for f in faces], dtype=float).reshape(-1, 3)
        ways: list[Any] = [f.direction or (0.0, 0.0, 0.0) for f in faces]
        self._way = np.array(ways, dtype=float).reshape(-1, 3)
        kinds = np.array([f.kind if f.direction or f.kind == "sphere" else "" for f in faces])
        self._is = {kind: kinds == kind for kind in (*_AXIAL, "sphere")}
        self._axial = np.isin(kinds, _AXIAL)

    def kept(self, one: Pose, two: Pose) -> Bools:
        """For each face whether the surface it lies in is the same at both poses: a plane slid in itself, a
        cylinder turned about its axis or slid along it, a sphere turned about its centre."""
        way = self._way @ one.rotation.T
        turned = np.linalg.norm(np.cross(way, self._way @ two.rotation.T), axis=1)
        off = (self._at @ two.rotation.T + two.p) - (self._at @ one.rotation.T + one.p)
        along = np.einsum("ij,ij->i", off, way)
        far = np.linalg.norm(off, axis=1)
        far = np.where(self._is["plane"], np.abs(along), far)
        beside = np.linalg.norm(off - along[:, None] * way, axis=1)
        far = np.where(self._is["cylinder"], beside, far)
        found: Bools = (far < _OFF) & ((self._axial & (turned <= _TURN)) | self._is["sphere"])
        return found
