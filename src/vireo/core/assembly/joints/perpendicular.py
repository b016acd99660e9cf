"""Two faces or axes at right angles."""

from collections.abc import Mapping

from vireo.core.declared.joint import PARALLEL, EndFrame, EndTrouble, Fit, JointForm, JointKind, add


class _Perpendicular(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        return {
            "": JointForm((("upright",),), complete=False),
            "leaning": JointForm(PARALLEL, complete=False),
        }

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        if "point" in (a.nature, b.nature):
            raise EndTrouble("a point has no direction; pick a flat or round face, or an edge")
        # An axis stands square on a plane when it points along its normal.
        mixed = "axis" in (a.nature, b.nature) and a.nature != b.nature
        return Fit("leaning" if mixed else "")


add(
    _Perpendicular(
        "perpendicular", "At right angles", "perpendicular", "Faces or axes at right angles",
        order=140, family="Condition",
    )
)  # fmt: skip
