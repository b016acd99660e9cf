"""An angle between two faces (between what stands square on them) or axes."""

import math
from collections.abc import Mapping

from vireo.core.declared.joint import EndFrame, EndTrouble, Fit, JointForm, JointKind, Lean, add


class _Angle(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        return {"": JointForm((), self.coordinates, complete=False)}

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        if "point" in (a.nature, b.nature):
            raise EndTrouble("a point has no direction; pick a flat or round face, or an edge")
        return Fit()


add(
    _Angle(
        "angle", "Angle", "angle", "An angle between the normals of faces, or axes",
        coordinates=(Lean("angle", "Angle"),), sizes=(1e-6, math.pi - 1e-6),
        instead="faces or axes in one direction are Parallel", order=150, family="Condition",
    )
)  # fmt: skip
