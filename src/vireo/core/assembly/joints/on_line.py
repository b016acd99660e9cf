"""A point that stays on a straight line: an edge or an axis."""

from vireo.core.declared.joint import ON_AXIS, EndFrame, EndTrouble, Fit, JointKind, Slide, add


class _OnLine(JointKind):
    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        natures = (a.nature, b.nature)
        if natures.count("point") != 1 or natures.count("axis") != 1:
            raise EndTrouble(
                "pick a straight edge or round face, and a corner or ball on the other"
            )
        return Fit(swapped=a.nature == "point")


add(
    _OnLine(
        "on_line", "Point on a line", "on_line", "A corner or ball that runs along an edge or axis",
        ON_AXIS, (Slide("slide", "Travel"),), free_turn=True, order=70,
        best=("axis point", "circle point", "line point"),
    )
)  # fmt: skip
