"""Parts built in tests, without a server."""

from __future__ import annotations

import math

from tests.core.drawings import plate
from vireo.core.samples.maker import Maker


def upright(e) -> bool:
    return e.kind == "line" and e.direction is not None and abs(e.direction[2]) > 0.99


def block(width="60 mm", height="40 mm", depth="10 mm", holes=()) -> Maker:
    m = Maker()
    m.do("add_parameter", name="w", formula=width)
    s = m.sketch(plate("w", height, holes))
    m.step("extrude", sketch=s, depth=depth)
    return m


def near(a, b, tolerance=1e-6) -> bool:
    return math.dist(a, b) < tolerance
