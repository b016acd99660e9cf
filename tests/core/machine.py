"""A made-up machine of many components whose overlaps are known by hand."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from vireo.core.assembly.pose import Pose, turned
from vireo.core.fit.nearly import Shapes
from vireo.core.fit.pairs import Item
from vireo.core.fit.verdict import Shape
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.grow import box, cylinder
from vireo.core.kernel.measure import box_of, topology_of, volume_of
from vireo.core.kernel.mesh import tessellate

STILL = np.array([1.0, 0, 0, 0])
R, H = 5.0, 10.0


def shape_of(body, threads=()):
    mesh = tessellate(body, None, 0.3)
    return Shape(body, mesh, Shapes(topology_of(body)), volume_of(body.shape), threads)


def _pin(radius, length=H):
    return cylinder((0, 0, -length / 2), (0, 0, 1), radius, length, ("wall", "top", "foot"))


def _bodies():
    bores = [
        cylinder((12.0 + 18 * (k % 4), 14.0 + 30 * (k // 4), -1), (0, 0, 1), R, 20.0,
                 (f"w{k}", f"t{k}", f"b{k}"))
        for k in range(8)
    ]  # fmt: skip
    plate = combine("cut", box((80.0, 60.0, H), "plate"), bores)
    room = combine(
        "cut", box((12.0, 12.0, 12.0), "r"), [_at(box((8.0, 8.0, 8.0), "in"), (2, 2, 2))]
    )
    return {
        "plate": plate, "pin": _pin(R), "long": _pin(R, 30.0), "press": _pin(R + 0.01),
        "slip": _pin(R - 0.005), "cube": box((6.0, 6.0, 6.0), "c"), "bead": box((2.0, 2.0, 2.0), "s"),
        "room": room,
    }  # fmt: skip


def _at(body, at):
    from vireo.core.kernel.place import located
    from vireo.core.kernel.shape import Body

    return Body(located(body.shape, np.eye(3), np.array(at, dtype=float)), body.names)


@dataclass
class Machine:
    """Components with where they stand, and by pair of ids what they overlap by: volume and depth."""

    items: list[Item] = field(default_factory=list)
    truth: dict[frozenset[str], tuple[float, float]] = field(default_factory=dict)
    shapes: dict[str, Shape] = field(default_factory=dict)


def machine(cells: int, seed: int = 1) -> Machine:
    """`cells` plates of fifteen components each, all of it moved as one at random."""
    rng = np.random.default_rng(seed)
    found = Machine()
    bodies = _bodies()
    boxes = {k: [np.array(c) for c in box_of(b.shape)] for k, b in bodies.items()}
    found.shapes = {k: shape_of(b) for k, b in bodies.items()}
    q = rng.normal(size=4)
    whole = Pose(rng.uniform(-500, 500, 3), q / np.linalg.norm(q))

    def add(id, key, p, q=STILL):
        low, high = boxes[key]
        found.items.append(Item(id, key, whole @ Pose(np.array(p, dtype=float), q), low, high))

    def size(low, high):
        return float(10 ** rng.uniform(low, high))

    for n in range(cells):
        o = np.array([100.0 * (n % 5), 80.0 * (n // 5), 0.0])
        plate = f"{n}/plate"

        def at_(x, y, z, o=o):
            return o + np.array([x, y, z])

        add(plate, "plate", o)
        for k in range(8):
            id = f"{n}/{k}"
            at = at_(12.0 + 18 * (k % 4), 14.0 + 30 * (k // 4), H / 2)
            spin = turned(STILL, np.array([0, 0, rng.uniform(-3, 3)]))
            both = frozenset((plate, id))
            if k in (0, 1):
                add(id, "pin", at, spin)
            elif k in (2, 3):
                add(id, "press", at, spin)
                found.truth[both] = (math.pi * ((R + 0.01) ** 2 - R**2) * H, 0.01)
            elif k == 4:
                add(id, "slip", at, spin)
            elif k == 5:
                e = size(-5, -2)
                add(id, "pin", at + np.array([e, 0, 0]), spin)
                found.truth[both] = (2 * R * e * H, e)
            else:
                tilt = size(-5, -2)
                key = ("pin", "long")[k == 7]
                add(id, key, at, turned(spin, np.array([tilt, 0, 0])))
                found.truth[both] = (2 * R * tilt * H**2 / 4, tilt * H / 2)
        add(f"{n}/lies", "cube", at_(20, 26, H))  # on the plate, touching
        sunk = size(-4, -1)
        add(f"{n}/sunk", "cube", at_(30, 26, H - sunk))
        found.truth[frozenset((plate, f"{n}/sunk"))] = (36 * sunk, sunk)
        corner = size(-1, 0)  # down to 0.001 mm3
        add(f"{n}/corner", "cube", at_(80 - corner, 60 - corner, H - corner))
        found.truth[frozenset((plate, f"{n}/corner"))] = (corner**3, corner)
        add(f"{n}/inside", "bead", at_(40, 27, 4))
        found.truth[frozenset((plate, f"{n}/inside"))] = (8.0, 5.0)
        add(f"{n}/room", "room", at_(50, 24, H))
        add(f"{n}/caught", "bead", at_(55, 29, H + 5))  # in a cavity: clear
        add(f"{n}/double", "bead", at_(55, 29, H + 5) if n % 7 == 3 else at_(20, 26, H + 6))
        if n % 7 == 3:
            found.truth[frozenset((f"{n}/caught", f"{n}/double"))] = (8.0, 2.0)
    return found
