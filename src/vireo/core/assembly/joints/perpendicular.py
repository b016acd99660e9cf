"""Two faces or axes at right angles."""

from collections.abc import Mapping

from vireo.core.assembly.joints.parallel import directed
from vireo.core.declared.joint import PARALLEL, EndFrame, Fit, JointForm, JointKind, add


class _Perpendicular(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        return {
            "": JointForm((("upright",),), complete=False),
            "leaning": JointForm(PARALLEL, complete=False),
        }

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        return directed(a, b)


add(
    _Perpendicular(
        "perpendicular", "At right angles", "perpendicular", "Faces or axes at right angles",
        order=140, family="Condition",
    )
)  # fmt: skip
