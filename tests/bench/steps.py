"""Rows about the steps of parts: the gallery, copies, threads, tessellation, names."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.TopLoc import TopLoc_Location

from tests.bench.bare import BARE, CUT, block, combined, rod
from tests.core.gallery import GALLERY
from tests.core.parts import Maker
from tests.core.truth import Part
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.mesh import _fast, _read_fast, _read_slow, tessellate
from vireo.core.kernel.nearest import nearest
from vireo.core.kernel.shape import Body
from vireo.core.kernel.transform import Move, carried
from vireo.core.maps.thickness import thickness
from vireo.core.part.cache import Cache
from vireo.work.diskcache import DiskCache


def timed(run, repeat: int = 3) -> float:
    best = float("inf")
    for _ in range(repeat):
        started = time.perf_counter()
        run()
        best = min(best, time.perf_counter() - started)
    return best


def gallery_against_bare() -> str:
    ratios, shown = [], []
    for name, bare in BARE.items():
        piece = GALLERY[name]()
        part = piece.maker.part
        same = abs(piece.maker.build().volume / volume_of(bare()) - 1.0)
        if same > 1e-6:
            return f"{name}: the bare script makes another part (off by {same:.1e})"

        def ours(part=part) -> None:
            fresh = Maker()
            fresh.part = part
            fresh.build()

        pairs = [(timed(ours, 1), timed(bare, 1)) for _ in range(7)]
        ratio = float(np.median([a / b for a, b in pairs]))
        ratios.append((sum(a for a, _ in pairs), sum(b for _, b in pairs)))
        shown.append(f"{name} {ratio:.2f}")
    whole = sum(a for a, _ in ratios) / sum(b for _, b in ratios)
    return f"{whole:.2f}x over {len(BARE)} parts ({', '.join(shown)})"


def hundred_holes() -> str:
    m = Maker()
    m.step("primitive", width="220 mm", depth="220 mm", height="10 mm")
    first = m.step("primitive", form="cylinder", diameter="8 mm", height="10 mm", x="20 mm",
                   y="20 mm", result="cut")  # fmt: skip
    m.step("copies_linear", steps=[first], count="10", spacing="20 mm", way="X", count2="10",
           spacing2="20 mm", way2="Y")  # fmt: skip
    before = m.part
    plate = block(220, 220, 10)

    def ours() -> float:
        fresh = Maker()
        fresh.part = before
        return fresh.build().steps[2].seconds

    def bare() -> None:
        places = [(20 + 20 * i, 20 + 20 * j) for j in range(10) for i in range(10)][1:]
        combined(CUT, plate, *(rod(8, 10, x, y) for x, y in places))

    pairs = [(ours(), timed(bare, 1)) for _ in range(5)]
    a, b = (min(p[k] for p in pairs) for k in (0, 1))
    return f"{np.median([x / y for x, y in pairs]):.2f}x ({a:.2f} s against {b:.2f} s)"


def m6_thread() -> str:
    with tempfile.TemporaryDirectory() as folder:
        m = Maker(Cache(DiskCache(Path(folder))))
        m.step("primitive", form="cylinder", diameter="6 mm", height="30 mm")
        wall = m.pick("face", lambda f: f.kind == "cylinder")
        m.step("thread", faces=wall, shown="modelled", reach="depth", length="12 mm")
        built = timed(m.build, 1)
        again = Maker(Cache(DiskCache(Path(folder))))
        again.part = m.part

        def reopened() -> None:
            found = again.build()
            again.cache.body(next(iter(found.bodies.values()))["key"])

        kept = timed(reopened, 1)
    return f"{built:.2f} s built, {kept * 1e3:.0f} ms from the cache on disk"


def tessellation() -> str:
    """Reading the triangles out: directly against call by call; proved equal at every start."""
    m = Maker()
    m.step("primitive", form="torus", diameter="100 mm", tube="40 mm")
    _, body = m.body()
    tessellate(body, 0.015, 0.05)
    t = BRep_Tool.Triangulation_s(body.faces[0], TopLoc_Location())
    fast, slow = timed(lambda: _read_fast(t)), timed(lambda: _read_slow(t), 1)
    word = "self-test passed" if _fast() else "self-test FAILED: the slow way is used"
    return f"{slow / fast:.0f}x ({t.NbTriangles()} triangles: {fast * 1e3:.1f} ms against {slow * 1e3:.0f} ms), {word}"


def perforated(first: float, count: int) -> Body:
    """A plate of 120 x 120 x 10 mm with rows of 8 mm bores every 11 mm."""
    m = Maker()
    m.step("primitive", width="120 mm", depth="120 mm", height="10 mm")
    hole = m.step("primitive", form="cylinder", diameter="8 mm", height="10 mm", x=f"{first} mm",
                  y=f"{first} mm", result="cut")  # fmt: skip
    m.step("copies_linear", steps=[hole], count=str(count), spacing="11 mm", count2=str(count),
           spacing2="11 mm", way2="Y")  # fmt: skip
    return m.body()[1]


def least_distance() -> str:
    """Two plates of 87 faces over each other; the kernel's own call took 13 s."""
    body = perforated(15, 9)
    other = carried(body, Move.shift((3.0, 2.0, 25.0)))
    found = nearest(body.shape, other.shape)
    best = timed(lambda: nearest(body.shape, other.shape))
    return f"{best:.2f} s, {found.distance:g} mm ({len(body.faces)} faces each, exact 15)"


def thickness_map() -> str:
    """A plate with a hundred bores, 3 mm between them."""
    body = perforated(10, 10)
    found = thickness(body)
    best = timed(lambda: thickness(body))
    least = found.told["least"]
    return (
        f"{best:.2f} s, {len(found.triangles)} triangles, thinnest {least:.4g} mm "
        f"({len(body.faces)} faces, between the bores 3 mm)"
    )


def lost_picks() -> str:
    asked = lost = wrong = edits = 0
    for seed in range(10):
        part = Part(seed)
        for _ in range(50):
            part.edit()
        t = part.tally
        asked, lost, wrong, edits = (
            asked + t.asked,
            lost + t.lost,
            wrong + len(t.wrong),
            edits + t.edits,
        )
    return f"{edits} edits, {asked} picks asked: {wrong} on other geometry, {lost} lost ({lost / asked:.2%})"


ROWS = [
    ("least distance between two 87-face plates", "at most 0.5 s", least_distance),
    ("wall thickness map of a 100-face part", "at most 3 s", thickness_map),
    ("gallery parts rebuilt against bare kernel scripts", "at most 1.25x", gallery_against_bare),
    ("copy step of 100 holes against one boolean with all tools", "at most 1.5x", hundred_holes),
    ("modelled M6 x 12 thread", "at most 5 s built, 0.3 s from cache", m6_thread),
    ("reading triangles directly against call by call", "at least 20x", tessellation),
    (
        "picks after 500 random edits, against ground truth",
        "none wrong, below 1 % lost",
        lost_picks,
    ),
]
