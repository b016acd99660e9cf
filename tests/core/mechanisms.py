"""Linkages with closed forms."""

import math

import numpy as np

from vireo.core.assembly import Mechanism, Member, Pair
from vireo.core.assembly.pose import Pose, turned

I = np.eye(3)
STILL = np.array([1.0, 0, 0, 0])
#: Axes whose z lies along X.
X_UP = np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]])


def at(x):
    return np.array([x, 0.0, 0.0])


def slider_crank(r, length):
    """A crank about Z at the origin, standing at a quarter turn, that drives a block along X."""
    x = math.sqrt(length**2 - r**2)
    spin = [turned(STILL, np.array([0, 0, a])) for a in (math.pi / 2, -math.asin(r / length))]
    members = (
        Member("g", Pose(np.zeros(3), STILL), True, 100.0),
        Member("crank", Pose(np.zeros(3), spin[0]), False, 100.0),
        Member("rod", Pose(np.array([0, r, 0.0]), spin[1]), False, 100.0),
        Member("block", Pose(np.array([x, 0, 0.0]), STILL), False, 100.0),
    )
    o = np.zeros(3)
    pairs = (
        Pair("crank", "revolute", 0, 1, o, I, o, I),
        Pair("pin", "revolute", 1, 2, np.array([r, 0.0, 0]), I, o, I),
        Pair("gudgeon", "revolute", 2, 3, np.array([length, 0.0, 0]), I, o, I),
        Pair("slide", "prismatic", 0, 3, o, X_UP, o, X_UP),
    )
    return Mechanism(members, pairs)


def scissor(cells, length=2.0):
    """Crossed bars joined at their middles and ends: one freedom, rows say far below none."""
    members, pairs = [], []
    half = length / 2
    tilt = math.radians(35)
    rise = length * math.sin(tilt)
    for k in range(cells):
        for n, sign in enumerate((1, -1)):
            q = turned(STILL, np.array([0, 0, sign * tilt]))
            members.append(Member(f"b{k}{n}", Pose(np.array([0, rise * k, 0.0]), q), False, 5.0))
        pairs.append(Pair(f"m{k}", "revolute", 2 * k, 2 * k + 1, at(0.0), I, at(0.0), I))
        if k:
            pairs.append(Pair(f"r{k}", "revolute", 2 * k - 2, 2 * k + 1, at(half), I, at(half), I))
            pairs.append(Pair(f"l{k}", "revolute", 2 * k - 1, 2 * k, at(-half), I, at(-half), I))
    members[0] = Member("b00", members[0].pose, True, 5.0)
    return Mechanism(tuple(members), tuple(pairs))
