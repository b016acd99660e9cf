"""In the middle between two faces: a tab, a shaft, a point between the walls of a slot."""

from collections.abc import Mapping

from vireo.core.declared.joint import PARALLEL, EndFrame, EndTrouble, Fit, JointForm, JointKind, add


def between(a: EndFrame, b: EndFrame) -> tuple[bool, EndFrame, EndFrame]:
    """Whether the ends are to be swapped, the walls (two faces), and what stands between them.
    Raises EndTrouble where no side has two faces."""
    if a.width is None and b.width is None:
        raise EndTrouble("pick the two faces of the slot, then what stands between them")
    # Walls face each other; a tab's faces point away from each other.
    swapped = a.width is None or (b.width is not None and b.width < 0 <= a.width)
    return swapped, *((b, a) if swapped else (a, b))


class _Centred(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        middle = ("along", "z")
        return {
            "plane": JointForm((middle, *PARALLEL), complete=False),
            "axis": JointForm((middle, ("upright",)), complete=False),
            "point": JointForm((middle,), complete=False),
        }

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        swapped, _, inner = between(a, b)
        return Fit("plane" if inner.nature == "frame" else inner.nature, swapped)


add(
    _Centred(
        "centred", "Centred", "centred", "In the middle between two faces",
        order=180, family="Condition", picks=(2, 2),
        hint="Two faces on one component, then one or two on the other",
    )
)  # fmt: skip
