"""A point that runs along an edge of any shape: a follower on its cam, a pin in a curved track."""

from collections.abc import Mapping

from vireo.core.declared.joint import EndFrame, EndTrouble, Fit, JointForm, JointKind, Travel, add


class _OnCurve(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        return {"": JointForm(self.rows, self.coordinates, self.free_turn, complete=False)}

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        natures = (a.nature, b.nature)
        if natures.count("point") != 1 or not {"axis", "curve"} & set(natures):
            raise EndTrouble("pick an edge to run along, and a corner or ball on the other")
        return Fit(swapped=a.nature == "point")


add(
    _OnCurve(
        "on_curve", "Point on a curve", "on_curve",
        "A corner or ball that runs along an edge and what goes on smoothly from it",
        (("beside", "x"), ("beside", "y")), (Travel("travel", "Travel"),), free_turn=True,
        order=72, runs=True, best=("curve point",), hint="An edge, and a corner or ball",
    )
)  # fmt: skip
