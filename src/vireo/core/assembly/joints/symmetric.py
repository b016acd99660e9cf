"""Two things alike on either side of a plane: faces, axes or points, each the mirror image of the
other."""

from collections.abc import Mapping

from vireo.core.declared.joint import MIRRORED, EndFrame, EndTrouble, Fit, JointForm, JointKind, add


class _Symmetric(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        return {
            "plane": JointForm((*MIRRORED, ("across", "z")), complete=False),
            "axis": JointForm((*MIRRORED, ("across", "x"), ("across", "y")), complete=False),
            "point": JointForm((("across", "x"), ("across", "y"), ("across", "z")), complete=False),
        }

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        one, other = ("plane" if e.nature == "frame" else e.nature for e in (a, b))
        if one != other:
            raise EndTrouble(
                "only like things are symmetric: pick two flat faces, two axes or edges, or two "
                "corners"
            )
        return Fit(one)


add(
    _Symmetric(
        "symmetric", "Symmetric", "symmetric", "One on either side of a plane, as in a mirror",
        order=185, family="Condition", mirrors=True,
        hint="One thing, the like on the other component, then the plane in the middle",
    )
)  # fmt: skip
