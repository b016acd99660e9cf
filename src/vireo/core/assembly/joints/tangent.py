"""A round face or ball that touches a plane or another one."""

from collections.abc import Mapping

from vireo.core.declared.joint import PARALLEL, EndFrame, EndTrouble, Fit, JointForm, JointKind, add


class _Tangent(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        def one(*rows: tuple[str, ...]) -> JointForm:
            return JointForm(rows, complete=False)

        return {
            "plane axis": one(("upright",), ("along", "z")),
            "plane point": one(("along", "z")),
            "axes": one(*PARALLEL, ("reach",)),
            "axis point": one(("reach",)),
            "points": one(("apart",)),
        }

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        flat = [e.nature in ("plane", "frame") for e in (a, b)]
        for end, plain in ((a, flat[0]), (b, flat[1])):
            if not plain and not end.radius:
                raise EndTrouble("tangent takes round faces; a straight edge or corner has no skin")
        if all(flat):
            raise EndTrouble("two flat faces do not touch in a line: use Coplanar")
        if any(flat):
            plane, other = (a, b) if flat[0] else (b, a)
            form = "plane axis" if other.nature == "axis" else "plane point"
            # On a face of a part it lies outside; a plane of its own has no outside.
            return Fit(form, flat[1], abs(other.radius), sided=not plane.outward)
        points = [e.nature == "point" for e in (a, b)]
        # Of two round faces one outside touches by the sum of the radii, one in a bore by their
        # difference.
        gap = abs(a.radius + b.radius)
        form = "points" if all(points) else "axis point" if any(points) else "axes"
        return Fit(form, swapped=points[0] and not points[1], offset=gap)


add(
    _Tangent(
        "tangent", "Tangent", "tangent_pair", "A round face or ball that touches a plane or another",
        order=170, best=("axis plane",), family="Condition",
    )
)  # fmt: skip
