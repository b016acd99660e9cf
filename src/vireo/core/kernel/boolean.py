"""Adding, cutting and overlapping bodies, with the names of their faces carried along."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from OCP.BOPAlgo import BOPAlgo_BOP, BOPAlgo_Operation
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from vireo.core.kernel.gate import Change, KernelTrouble, checked
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import Body, Key, faces_of, items, solids_of, unwrap

Operation = Literal["add", "cut", "overlap"]

_OPERATIONS = {
    "add": BOPAlgo_Operation.BOPAlgo_FUSE,
    "cut": BOPAlgo_Operation.BOPAlgo_CUT,
    "overlap": BOPAlgo_Operation.BOPAlgo_COMMON,
}
_CHANGE: dict[str, Change] = {"add": "more", "cut": "less", "overlap": "less"}


class Nothing(KernelTrouble):
    """The operation has no effect."""

    code = "nothing"


class NothingLeft(Nothing):
    """The operation would leave no body."""


def join_names(names: set[str]) -> str:
    """The name of a face merged from several: all their names in order, ``a&b``."""
    if len(names) == 1:
        return next(iter(names))
    return "&".join(sorted({part for n in names for part in n.split("&")}))


def carry(sources: Sequence[Body], history: Any, result: TopoDS_Shape, new: str) -> tuple[str, ...]:
    """Names for the faces of `result` from those of `sources` by the kernel's history."""
    named: dict[Key, set[str]] = {}
    for body in sources:
        for face, name in body.named_faces():
            for piece in items(history.Modified(face)) or [face]:
                named.setdefault(Key(piece), set()).add(name)
    return tuple(join_names(named.get(Key(f), {new})) for f in faces_of(result))


def combine(
    operation: Operation, base: Body, tools: Sequence[Body], what: str = "this step"
) -> Body:
    """`base` with all `tools` added, cut away or overlapped, in one kernel call.

    Raises Nothing when a cut misses the body, NothingLeft when it removes all of it or an
    overlap is empty, and KernelTrouble when the kernel fails or gives an unsound solid.
    """
    builder = _performed(operation, base, tools, what)
    shape = builder.Shape()
    before = volume_of(base.shape)
    if not solids_of(shape):
        if operation == "cut":
            raise NothingLeft(f"{what} removes the whole body")
        raise NothingLeft(f"{what} and the body do not overlap: nothing would be left")
    if operation == "add":
        # The gate comes once, after faces that are flush have become one.
        raw = unwrap(shape)
        try:
            return _joined(Body(raw, carry([base, *tools], builder, raw, "section")), what, before)
        except KernelTrouble:
            # Joining faces is a nicety, and the kernel sometimes spoils the solid by it (and
            # its input too): leave the seams, in a result made anew.
            builder = _performed(operation, base, tools, what)
            shape = builder.Shape()
    shape = checked(what, shape, before=before, change=_CHANGE[operation])
    if operation == "cut" and abs(volume_of(shape) - before) <= 1e-9 * before:
        raise Nothing(f"{what} does not touch the body, so it removes nothing")
    return Body(shape, carry([base, *tools], builder, shape, "section"))


def _performed(operation: Operation, base: Body, tools: Sequence[Body], what: str) -> BOPAlgo_BOP:
    builder = BOPAlgo_BOP()
    builder.SetOperation(_OPERATIONS[operation])
    builder.AddArgument(base.shape)
    for tool in tools:
        builder.AddTool(tool.shape)
    builder.SetRunParallel(False)
    builder.SetNonDestructive(True)
    builder.SetToFillHistory(True)
    builder.Perform()
    if builder.HasErrors():
        raise KernelTrouble(f"{what}: the two bodies could not be combined")
    return builder


def unified(body: Body) -> Body:
    """Neighbouring faces that lie on one surface made one, and so their edges."""
    return _joined(body, "joining faces that are flush", None)


def _joined(body: Body, what: str, before: float | None) -> Body:
    unify = ShapeUpgrade_UnifySameDomain(body.shape, True, True, False)
    unify.Build()
    shape = checked(what, unify.Shape(), before=before, change="any" if before is None else "more")
    return Body(shape, carry([body], unify.History(), shape, "joined"))
