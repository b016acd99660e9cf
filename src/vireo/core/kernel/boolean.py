"""Adding, cutting and overlapping bodies, with the names of their faces carried along."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from OCP.BOPAlgo import BOPAlgo_BOP, BOPAlgo_Operation, BOPAlgo_Splitter
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from vireo.core.kernel.gate import Change, KernelTrouble, checked
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import Body, Key, compound_of, faces_of, items, solids_of, unwrap
from vireo.core.kernel.witness import WitnessTrouble, boxed, budget, membership
from vireo.core.naming.grammar import joined

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


def splitter(shape: TopoDS_Shape, tool: TopoDS_Shape, trouble: str) -> BOPAlgo_Splitter:
    """A shape cut through by another, with the history `carry` asks. Raises KernelTrouble with the
    words of `trouble`."""
    made = BOPAlgo_Splitter()
    made.AddArgument(shape)
    made.AddTool(tool)
    made.SetRunParallel(False)
    made.SetNonDestructive(True)
    made.SetToFillHistory(True)
    made.Perform()
    if made.HasErrors():
        raise KernelTrouble(trouble)
    return made


def carry(sources: Sequence[Body], history: Any, result: TopoDS_Shape, new: str) -> tuple[str, ...]:
    """Names for the faces of `result` from those of `sources` by the kernel's history."""
    named: dict[Key, set[str]] = {}
    for body in sources:
        for face, name in body.named_faces():
            for piece in items(history.Modified(face)) or [face]:
                named.setdefault(Key(piece), set()).add(name)
    return tuple(joined(named.get(Key(f), {new})) for f in faces_of(result))


def combine(
    operation: Operation, base: Body, tools: Sequence[Body], what: str = "this step"
) -> Body:
    """`base` with all `tools` added, cut away or overlapped, in one kernel call.

    Raises Nothing when a cut misses the body, NothingLeft when it removes all of it or an
    overlap is empty, and KernelTrouble when the kernel fails or gives an unsound solid.
    """
    try:
        return _combined(operation, base, tools, what, 0.0)
    except Nothing:
        raise
    except WitnessTrouble as trouble:
        # The second way: one tool after the other, with a little more tolerance.
        try:
            for tool in tools:
                base = _combined(operation, base, [tool], what, _WIDER)
        except KernelTrouble:
            raise trouble from None
        return base


#: Tolerance (mm) of the second way: twenty times the kernel's own.
_WIDER = 2e-6


def _combined(
    operation: Operation, base: Body, tools: Sequence[Body], what: str, wider: float
) -> Body:
    builder = _performed(operation, base, tools, what, wider)
    shape = builder.Shape()
    before = volume_of(base.shape)
    if not solids_of(shape):
        # Also that nothing is left, or nothing is touched, the kernel says wrongly at times.
        _witnessed(operation, base, tools, compound_of([]), what)
        if operation == "cut":
            raise NothingLeft(f"{what} removes the whole body")
        raise NothingLeft(f"{what} and the body do not overlap: nothing would be left")
    if operation == "add":
        # The gate comes once, after faces that are flush have become one.
        raw = unwrap(shape)
        try:
            whole = _joined(Body(raw, carry([base, *tools], builder, raw, "section")), what, before)
            _witnessed(operation, base, tools, whole.shape, what)
            return whole
        except KernelTrouble:
            # Joining faces is a nicety, and the kernel sometimes spoils the solid by it (and
            # its input too): leave the seams, in a result made anew.
            builder = _performed(operation, base, tools, what, wider)
            shape = builder.Shape()
    shape = checked(what, shape, before=before, change=_CHANGE[operation])
    _witnessed(operation, base, tools, shape, what)
    if operation == "cut" and abs(volume_of(shape) - before) <= 1e-9 * before:
        raise Nothing(f"{what} does not touch the body, so it removes nothing")
    return Body(shape, carry([base, *tools], builder, shape, "section"))


def _witnessed(
    operation: Operation, base: Body, tools: Sequence[Body], result: TopoDS_Shape, what: str
) -> None:
    """Volume by inclusion and exclusion, box and membership. Raises WitnessTrouble."""
    change = (volume_of(result) if solids_of(result) else 0.0) - volume_of(base.shape)
    together = sum(volume_of(t.shape) for t in tools)
    low, high = {
        "add": (max(volume_of(t.shape) for t in tools) - volume_of(base.shape), together),
        "cut": (-together, 0.0),
        "overlap": (-volume_of(base.shape), 0.0),
    }[operation]
    budget(what, change, low, high, 1e-6 * volume_of(base.shape))
    if solids_of(result):
        boxed(operation, base, tools, result, what)
    membership(operation, base, tools, result, what)


def _performed(
    operation: Operation, base: Body, tools: Sequence[Body], what: str, wider: float
) -> BOPAlgo_BOP:
    builder = BOPAlgo_BOP()
    builder.SetOperation(_OPERATIONS[operation])
    builder.AddArgument(base.shape)
    for tool in tools:
        builder.AddTool(tool.shape)
    builder.SetRunParallel(False)
    builder.SetNonDestructive(True)
    builder.SetToFillHistory(True)
    if wider:
        builder.SetFuzzyValue(wider)
    builder.Perform()
    if builder.HasErrors():
        raise KernelTrouble(f"{what}: the two bodies could not be combined")
    return builder


def unified(body: Body) -> Body:
    """Neighbouring faces that lie on one surface made one, and so their edges."""
    return _joined(body, "joining faces that are flush", None)


def unified_beside(body: Body, before: Body) -> Body:
    """Neighbouring faces that lie on one surface made one, but for what was parted in an earlier
    body already."""
    return _joined(body, "joining faces that are flush", None, keep=before)


def _joined(body: Body, what: str, before: float | None, keep: Body | None = None) -> Body:
    unify = ShapeUpgrade_UnifySameDomain(body.shape, True, True, False)
    for edge in keep.edges if keep else ():
        unify.KeepShape(edge)
    unify.Build()
    shape = checked(what, unify.Shape(), before=before, change="any" if before is None else "more")
    return Body(shape, carry([body], unify.History(), shape, "joined"))
