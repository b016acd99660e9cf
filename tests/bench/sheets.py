"""Benches of sheet metal: a part of forty bends folded, laid flat, edited, read off its own solid."""

from __future__ import annotations

import time

from tests.core.test_sheet_parts import edge, plated, sheet_of, trouble
from vireo.core.panels.places import flat
from vireo.core.samples.maker import Maker
from vireo.core.sheet.allowance import KFactor
from vireo.core.sheet.blanks import flattened
from vireo.core.sheet.reading import sheet_read
from vireo.script.sketch import Sketch


def forty() -> tuple[Maker, str]:
    """A plate with two walls and their returns, eighteen openings with a tab on each, a bent tip on each tab; the
    step of the tabs."""
    m = plated(400, 300)
    p = Sketch()
    a, b, c = p.point(0, 0), p.point(0, 30), p.point(12, 30)
    p.line(a, b)
    p.line(b, c)
    profile = m.sketch(p, {"base": "YZ", "face": None})
    walls = [q for at in ((200, 0), (200, 300)) for q in edge(m, *at, 1.5)]
    m.step("sheet_profile", edges=walls, sketch=profile)
    s = Sketch()
    spots = [(i, j) for i in range(6) for j in range(3)]
    for i, j in spots:
        s.box(30 + i * 60, 40 + j * 80, 60 + i * 60, 90 + j * 80)
    m.step("sheet_cut", sketch=m.sketch(s))
    tabs = [q for i, j in spots for q in edge(m, 45 + i * 60, 40 + j * 80, 1.5)]
    made = m.step(
        "sheet_flange", edges=tabs, length="15 mm", position="beyond", width="centred", wide="20 mm"
    )
    tips = [q for i, j in spots for q in edge(m, 45 + i * 60, 42 + j * 80, 17.5)]
    m.step("sheet_flange", edges=tips, length="10 mm", angle="45 deg")
    assert trouble(m) == ""
    return m, made


def _timed(run) -> float:
    began = time.perf_counter()
    run()
    return time.perf_counter() - began


def forty_bends() -> str:
    m, tabs = forty()
    made = sheet_of(m)
    _, solid = m.body()
    folded = _timed(made.body)
    laid = _timed(lambda: made.body(flat(made.sheet)))
    outline = _timed(lambda: flattened(made))
    read = _timed(lambda: sheet_read(solid, KFactor(), "s99", 0.2))
    times = []
    for k in range(3):
        m.do("edit_step", id=tabs, fields={"length": f"{16 + k} mm"})
        times.append(_timed(m.build))
    return (
        f"{len(made.sheet.bends)} bends, {len(solid.names)} faces: folded {folded:.2f} s, laid flat {laid:.2f} s, "
        f"blank {outline:.2f} s; a length edited {min(times):.2f} s (two steps run again); read off the solid {read:.2f} s"
    )


ROWS = [
    (
        "a sheet of forty bends: folded, laid flat, edited, read",
        "at most 1 s, 1 s; edit 0.5 s; read 3 s",
        forty_bends,
    ),
]
