"""The strength solver against closed forms and a published benchmark. Real mesher, real solver."""

import math

import pytest

from tests.core.drawings import plate
from tests.core.parts import Maker
from vireo.core.kernel.exchange import brep_text
from vireo.core.kernel.grow import box
from vireo.core.kernel.measure import edge_line, mass_properties, sharp_inner_edges, topology_of
from vireo.core.strength.problem import Applied, Fixed, Problem
from vireo.work.script import Sketcher

E, NU = 210000.0, 0.3


def problem(body, fixed, loads, **more):
    t = topology_of(body)
    pick = lambda test: tuple(i for i, f in enumerate(t.faces) if test(f))  # noqa: E731
    held = pick(fixed)
    return Problem(
        areas=tuple(f.area for f in t.faces), volume=mass_properties(body).volume, young=E,
        poisson=NU, density=7.85e-9, strength=235.0, fixed=(Fixed(id="u", faces=held),),
        loads=tuple(
            Applied(id=f"f{k}", kind=kind, faces=pick(test), **values)
            for k, (kind, test, values) in enumerate(loads)
        ),
        inner_corners=tuple(tuple(edge_line(body, i)) for i in sharp_inner_edges(body)),
        support_borders=tuple(
            tuple(edge_line(body, i))
            for i, e in enumerate(t.edges) if len(set(e.faces) & set(held)) == 1
        ),
        **more,
    )  # fmt: skip


def solve(tmp_path, body, p):
    """In a process of its own, as the product does it."""
    import subprocess
    import sys

    import numpy as np

    from vireo.core.strength.problem import Answer

    brep_text(body, str(tmp_path / "body.brep"))
    (tmp_path / "problem.json").write_text(p.model_dump_json())
    command = [sys.executable, "-m", "vireo.work.fem", str(tmp_path)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    if (tmp_path / "trouble.json").exists():
        raise AssertionError((tmp_path / "trouble.json").read_text())
    assert done.returncode == 0, done.stderr
    answer = Answer.model_validate_json((tmp_path / "answer.json").read_text())
    return answer, np.load(tmp_path / "field.npz")


def flat(axis, at):
    return lambda f: (
        f.kind == "plane" and abs(f.direction[axis]) > 0.99 and abs(f.at[axis] - at) < 1e-6
    )


def test_cantilever_tip_and_balance(tmp_path):
    # Timoshenko: w = F L3 / 3 E I + F L / k G A, k = 5/6 for a rectangle.
    body = box((200.0, 10.0, 10.0), "bar")
    p = problem(body, flat(0, 0.0), [("force", flat(0, 200.0), {"vector": (0.0, 0.0, -100.0)})])
    answer, _ = solve(tmp_path, body, p)
    inertia, shear = 10**4 / 12, E / (2 * (1 + NU))
    tip = 100 * 200**3 / (3 * E * inertia) + 100 * 200 / (5 / 6 * shear * 100)
    assert answer.deflection == pytest.approx(tip, rel=0.01)
    assert answer.reaction == pytest.approx((0, 0, 100), abs=1e-4)
    assert answer.imbalance < 1e-6
    assert answer.safety == pytest.approx(235 / answer.peak)


def test_own_weight_is_carried_by_the_support(tmp_path):
    body = box((100.0, 20.0, 10.0), "bar")
    p = problem(
        body, flat(0, 0.0), [("gravity", lambda f: False, {"vector": (0.0, 0.0, -9806.65)})]
    )
    answer, _ = solve(tmp_path, body, p)
    assert answer.reaction[2] == pytest.approx(20000 * 7.85e-9 * 9806.65, rel=1e-9)


def test_thick_cylinder_against_lame(tmp_path):
    # The ring is held on its outer face, for which Lame gives u = 0 at b and
    # sigma_hoop(a) = A + B / a2 with A, B from p at a and u(b) = 0 (plane stress, free ends).
    inner, outer, thick, pressure = 20.0, 40.0, 4.0, 50.0
    s = Sketcher()
    s.circle("origin", inner)
    s.circle("origin", outer)
    m = Maker()
    m.step("extrude", sketch=m.sketch(s), depth=f"{thick} mm")
    body = m.body()[1]
    p = problem(
        body, lambda f: f.kind == "cylinder" and abs(f.radius - outer) < 1e-9,
        [("pressure", lambda f: f.kind == "cylinder" and abs(f.radius - inner) < 1e-9, {"pressure": pressure})],
        mesh_size=3.0,
    )  # fmt: skip
    _, field = solve(tmp_path, body, p)
    # sigma_r = A - B / r2, E u / r = (1 - nu) A + (1 + nu) B / r2 = 0 at b, sigma_r(a) = -p
    ratio = (1 + NU) / (1 - NU) / outer**2
    B = pressure / (1 / inner**2 + ratio)
    A = -ratio * B
    u = inner / E * ((1 - NU) * A + (1 + NU) * B / inner**2)
    r = (field["points"][:, 0] ** 2 + field["points"][:, 1] ** 2) ** 0.5
    on_bore = abs(r - inner) < 1e-6
    radial = (field["displacement"][:, :2] * field["points"][:, :2]).sum(axis=1) / r
    assert radial[on_bore].mean() == pytest.approx(u, rel=0.03)  # the outer face holds z as well
    middle = on_bore & (abs(field["points"][:, 2] - thick / 2) < 0.6)
    x, y = field["points"][middle, 0] / inner, field["points"][middle, 1] / inner
    sxx, syy, sxy = (field["stress"][middle, k] for k in (0, 1, 3))
    hoop = sxx * y * y + syy * x * x - 2 * sxy * x * y
    assert hoop.mean() == pytest.approx(A + B / inner**2, rel=0.03)


def test_plate_with_a_hole_against_heywood(tmp_path):
    # Finite width d / W = 0.2: gross Kt = (2 + (1 - d/W)^3) / (1 - d/W) = 3.14 (Heywood 1952).
    m = Maker()
    s = plate("200 mm", "50 mm")
    c = s.point(100, 25)
    s.circle(c, 5)
    m.step("extrude", sketch=m.sketch(s), depth="2 mm")
    body = m.body()[1]
    p = problem(
        body,
        flat(0, 0.0),
        [("force", flat(0, 200.0), {"vector": (10000.0, 0.0, 0.0)})],
        mesh_size=4.0,
    )
    answer, field = solve(tmp_path, body, p)
    gross = 10000 / (50 * 2)
    near = (abs(field["points"][:, 0] - 100) < 6) & (abs(field["points"][:, 1] - 25) < 6)
    peak = field["stress"][near, 0].max()
    assert peak / gross == pytest.approx((2 + 0.8**3) / 0.8, rel=0.03)
    assert answer.reaction[0] == pytest.approx(-10000, rel=1e-6)


def test_nothing_held_and_nothing_loaded_are_said(tmp_path):
    body = box((20.0, 10.0, 10.0), "bar")
    p = problem(body, flat(0, 0.0), [("force", flat(0, 20.0), {"vector": (0.0, 0.0, -1.0)})])
    with pytest.raises(AssertionError, match="shift along X, Y and Z"):
        solve(tmp_path, body, p.model_copy(update={"fixed": ()}))
    (tmp_path / "trouble.json").unlink()
    with pytest.raises(AssertionError, match="no load yet"):
        solve(tmp_path, body, p.model_copy(update={"loads": ()}))


def test_a_peak_at_a_sharp_inner_corner_is_called_out_and_a_fillet_cures_it(tmp_path):
    def bracket(radius):
        s = Sketcher()
        s.polygon([(0, 0), (60, 0), (60, 10), (10, 10), (10, 60), (0, 60)])
        m = Maker()
        m.step("extrude", sketch=m.sketch(s), depth="10 mm")
        if radius:
            inner = m.pick("edge", lambda e: abs(e.at[0] - 10) < 1e-6 and abs(e.at[1] - 10) < 1e-6)
            m.step("fillet", edges=inner, radius=f"{radius} mm")
        return m.body()[1]

    load = [("force", flat(1, 60.0), {"vector": (400.0, 0.0, 0.0)})]
    sharp = bracket(0)
    assert len(sharp_inner_edges(sharp)) == 1
    held = lambda f: f.kind == "plane" and f.direction[0] > 0.99 and abs(f.at[0] - 60) < 1e-6  # noqa: E731
    answer, _ = solve(tmp_path, sharp, problem(sharp, held, load, mesh_size=3.0))
    assert answer.corner == "inner"
    assert answer.growth > 1.06
    round_one = bracket(4)
    assert sharp_inner_edges(round_one) == []
    answer, _ = solve(tmp_path, round_one, problem(round_one, held, load, mesh_size=3.0))
    assert answer.corner != "inner"
    assert math.isfinite(answer.safety)


def test_thick_clamped_plate_under_pressure(tmp_path):
    # Reissner-Mindlin, clamped circular plate: w = p a4 / 64 D + p a2 / (4 k G h), k = 5/6
    # (Timoshenko, Woinowsky-Krieger: Theory of Plates and Shells, ch. 3 and 5). The solid's
    # clamp also stops the section from warping, which makes it a little stiffer.
    from vireo.core.kernel.grow import cylinder

    a, h, pressure = 50.0, 5.0, 1.0
    body = cylinder((0, 0, 0), (0, 0, 1), a, h, ("rim", "top", "under"))
    p = problem(
        body, lambda f: f.kind == "cylinder",
        [("pressure", lambda f: f.name == "top", {"pressure": pressure})], mesh_size=3.2,
    )  # fmt: skip
    answer, _ = solve(tmp_path, body, p)
    stiffness, shear = E * h**3 / (12 * (1 - NU**2)), E / (2 * (1 + NU))
    theory = pressure * a**4 / (64 * stiffness) + pressure * a**2 / (4 * 5 / 6 * shear * h)
    assert answer.deflection == pytest.approx(theory, rel=0.03)
    assert answer.reaction[2] == pytest.approx(pressure * math.pi * a**2, rel=1e-3)
