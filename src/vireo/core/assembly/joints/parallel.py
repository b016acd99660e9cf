"""Two faces or axes that point the same way, or against each other, as they stand."""

from collections.abc import Mapping

from vireo.core.declared.joint import (
    PARALLEL,
    EndFrame,
    EndTrouble,
    Fit,
    JointForm,
    JointKind,
    Turn,
    add,
)


def directed(a: EndFrame, b: EndFrame) -> Fit:
    """Two ends with a direction. An axis beside a plane leans: it is parallel to the plane when it is
    square to its normal, and square to it when along. Raises EndTrouble for points."""
    if "point" in (a.nature, b.nature):
        raise EndTrouble("a point has no direction; pick a flat or round face, or an edge")
    mixed = "axis" in (a.nature, b.nature) and a.nature != b.nature
    return Fit("leaning" if mixed else "")


class _Parallel(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        square = (("upright",),)
        return {
            "": JointForm(PARALLEL, self.coordinates, complete=False),
            "leaning": JointForm(square, complete=False),
        }

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        return directed(a, b)


add(
    _Parallel(
        "parallel", "Parallel", "parallel", "Faces or axes in one direction",
        coordinates=(Turn("turn", "Angle"),), order=130, family="Condition",
    )
)  # fmt: skip
