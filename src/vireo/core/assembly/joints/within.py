"""Free between two faces: a tab or shaft that stays within the walls of a slot."""

from collections.abc import Mapping

from vireo.core.assembly.joints.centred import between
from vireo.core.declared.joint import (
    PARALLEL,
    EndFrame,
    EndTrouble,
    Fit,
    JointForm,
    JointKind,
    Slide,
    add,
)


class _Within(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        return {
            "plane": JointForm(PARALLEL, self.coordinates, complete=False),
            "axis": JointForm((("upright",),), self.coordinates, complete=False),
            "point": JointForm((), self.coordinates, complete=False),
        }

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        swapped, walls, inner = between(a, b)
        taken = abs(inner.width) if inner.width is not None else 2 * abs(inner.radius)
        play = (abs(walls.width or 0.0) - taken) / 2
        if play < -1e-6:
            raise EndTrouble(
                f"what goes between is {taken:.6g} mm wide, the faces are only "
                f"{abs(walls.width or 0.0):.6g} mm apart"
            )
        form = "plane" if inner.nature == "frame" else inner.nature
        return Fit(form, swapped, limits={"play": (-max(play, 0.0), max(play, 0.0))})


add(
    _Within(
        "within", "Within", "within", "Free between two faces, up to either",
        coordinates=(Slide("play", "From the middle"),), order=190, family="Condition",
        picks=(2, 2), hint="Two faces on one component, then one or two on the other",
    )
)  # fmt: skip
