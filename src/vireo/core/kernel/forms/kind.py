"""The contract of a form of body and the registry they enter by being read.

A form says how a shape of it is taken out of what the kernel gives, what the gate asks of it, and
what it weighs by. Which form a body has follows from its shape: nothing is stored beside it.
"""

from __future__ import annotations

from typing import ClassVar

from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.TopoDS import TopoDS_Shape

from vireo.core.kernel.measure import MassProperties
from vireo.core.kernel.shape import Body
from vireo.core.kernel.trouble import KernelTrouble
from vireo.core.registry import Registry


class BodyForm:
    """Subclass, set the class attributes, write the rest, decorate with `register`."""

    #: What documents, screens and messages call it.
    word: ClassVar[str]
    #: What messages call one, and how it becomes a solid.
    article: ClassVar[str]
    hint: ClassVar[str] = ""
    #: Forms are asked in this order whether a shape is theirs.
    order: ClassVar[int]
    #: Whether it has faces that carry its names; else its edges do.
    faced: ClassVar[bool] = True

    def proper(self, shape: TopoDS_Shape) -> TopoDS_Shape | None:
        """What of a shape is of this form, in a compound when there are several; None without."""
        raise NotImplementedError

    def check(self, operation: str, shape: TopoDS_Shape) -> None:
        """What the form asks besides sound faces. Raises KernelTrouble."""

    def mass(self, body: Body) -> MassProperties:
        """Volume, area, centre and inertia."""
        raise NotImplementedError


FORMS: Registry[BodyForm] = Registry("form of body", "vireo.core.kernel.forms")


def register(cls: type[BodyForm]) -> type[BodyForm]:
    FORMS.add(cls.word, cls())
    return cls


def form_of(body: Body) -> BodyForm:
    """The form of a body: the first whose shape it has."""
    for form in sorted(FORMS.values(), key=lambda f: f.order):
        if form.proper(body.shape) is not None:
            return form
    raise KernelTrouble("this shape is of no form that is known")


def sound(operation: str, shape: TopoDS_Shape, word: str) -> TopoDS_Shape:
    """What of a shape is of a form, or KernelTrouble with what is wrong with it: the gate for what
    is no solid (solids pass `gate.checked`)."""
    form = FORMS[word]
    if shape.IsNull():
        raise KernelTrouble(f"{operation} gave no shape")
    proper = form.proper(shape)
    if proper is None:
        raise KernelTrouble(f"{operation} left no {word}")
    if not BRepCheck_Analyzer(proper).IsValid():
        raise KernelTrouble(f"{operation} gave {form.article} with faults")
    form.check(operation, proper)
    return proper
