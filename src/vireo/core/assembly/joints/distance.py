"""A distance between planes, axes (from the middle of round faces) and points."""

from collections.abc import Mapping

from vireo.core.declared.joint import (
    PARALLEL,
    Apart,
    EndFrame,
    Fit,
    JointForm,
    JointKind,
    Reach,
    Slide,
    add,
)

#: In which order ends are taken: the first of two is a.
_RANK = {"plane": 0, "frame": 0, "axis": 1, "point": 2}
_ALONG = Slide("distance", "Distance")
_REACH = Reach("distance", "Distance")
_APART = Apart("distance", "Distance")
#: By the ranks of both ends.
_FORMS = {
    (0, 0): "planes", (0, 1): "plane axis", (0, 2): "plane point",
    (1, 1): "axes", (1, 2): "axis point", (2, 2): "points",
}  # fmt: skip


class _Distance(JointKind):
    @property
    def forms(self) -> Mapping[str, JointForm]:
        def one(rows: tuple[tuple[str, ...], ...], of: Slide | Reach | Apart) -> JointForm:
            return JointForm(rows, (of,), complete=False)

        return {
            "planes": one(PARALLEL, _ALONG),
            "plane axis": one((("upright",),), _ALONG),
            "plane point": one((), _ALONG),
            "axes": one(PARALLEL, _REACH),
            "axis point": one((), _REACH),
            "points": one((), _APART),
        }

    def fit(self, a: EndFrame, b: EndFrame) -> Fit:
        ranks = (_RANK[a.nature], _RANK[b.nature])
        return Fit(_FORMS[min(ranks), max(ranks)], ranks[0] > ranks[1], sided=min(ranks) == 0)


add(
    _Distance(
        "distance", "Distance", "distance", "A distance between faces, axes, corners",
        coordinates=(_ALONG,), sizes=(-1e-9, 1e6),
        instead="Other way round puts it on the other side", order=160,
        best=("plane point", "line plane"), family="Condition",
    )
)  # fmt: skip
