"""The one gate every kernel result passes.

The kernel reports success on wrong solids (notes: fillets that add material, sweeps of zero
volume, shells left unchanged), so each operation says what it must have changed.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Literal

from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.TopoDS import TopoDS_Shape

from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import solids_of, unwrap
from vireo.core.kernel.trouble import KernelTrouble
from vireo.core.trouble import BadInput

__all__ = ["MAX_SIZE", "KernelTrouble", "checked", "count_solids", "finite"]

MAX_SIZE = 1e5  # mm; booleans lose geometry silently beyond about 1e12 times their tolerance

Change = Literal["more", "less", "any"]


def finite(*numbers: float) -> None:
    """Refuse numbers that hang the kernel. Raises BadInput."""
    for number in numbers:
        if not math.isfinite(number):
            raise BadInput("a size is not a finite number")
        if abs(number) > MAX_SIZE:
            raise BadInput(
                f"{number:g} mm is beyond the largest size of {MAX_SIZE / 1000:g} m a model may have"
            )


def checked(
    operation: str,
    shape: TopoDS_Shape,
    *,
    before: float | None = None,
    change: Change = "any",
) -> TopoDS_Shape:
    """The solid inside `shape`, or KernelTrouble with what is wrong with it.

    `before` is the volume in mm3 the result is compared with; `change` is the way the volume
    must have moved ("more", "less") for the operation to have happened at all.
    """
    if shape.IsNull():
        raise KernelTrouble(f"{operation} gave no shape")
    if not solids_of(shape):
        raise KernelTrouble(f"{operation} left no solid")
    solid = unwrap(shape)
    if not BRepCheck_Analyzer(solid).IsValid():
        raise KernelTrouble(f"{operation} gave a solid with faults in its faces")
    volume = volume_of(solid)
    if not volume > 0.0:
        raise KernelTrouble(f"{operation} gave a solid turned inside out")
    if before is not None and change != "any":
        slack = 1e-9 * max(before, volume)
        if change == "more" and volume < before - slack:
            raise KernelTrouble(f"{operation} should add material but took some away")
        if change == "less" and volume > before + slack:
            raise KernelTrouble(f"{operation} should take material away but added some")
    return solid


def count_solids(shapes: Iterable[TopoDS_Shape]) -> int:
    return sum(len(solids_of(s)) for s in shapes)
