"""Any turn about a common point."""

from vireo.core.declared.joint import POINT, EndFrame, Fit, JointKind, add


class _Spherical(JointKind):
    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        return Fit()


add(
    _Spherical(
        "spherical", "Spherical", "spherical", "Turn any way about a common point", POINT,
        free_turn=True, about="point", order=60, best=("point point",),
    )
)  # fmt: skip
