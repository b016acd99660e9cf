"""Two flat faces in one plane: facing each other or flush, as they stand."""

from vireo.core.declared.joint import (
    PARALLEL,
    EndFrame,
    EndTrouble,
    Fit,
    JointKind,
    Slide,
    Turn,
    add,
)


class _Coplanar(JointKind):
    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        if "axis" in (a.nature, b.nature) or "point" in (a.nature, b.nature):
            raise EndTrouble("coplanar holds two flat faces or planes")
        return Fit()


add(
    _Coplanar(
        "coplanar", "Coplanar", "coplanar", "Two flat faces in one plane, facing or flush",
        (("along", "z"), *PARALLEL),
        (Slide("x", "Along X", "x"), Slide("y", "Along Y", "y"), Turn("turn", "Angle")),
        about="plane", order=110, family="Condition",
    )
)  # fmt: skip
