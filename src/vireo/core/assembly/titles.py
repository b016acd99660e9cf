"""What solids of an assembly are called: by the components that lead to them."""

from __future__ import annotations

from collections.abc import Callable

from vireo.core.assembly.build import Built
from vireo.core.documents import Document
from vireo.core.documents.kinds.assembly import Assembly
from vireo.core.naming.grammar import numbers_of, original_of, path_of


def copy_title(name: str, id: str) -> str:
    """What a component is called; copies carry their numbers.

    >>> copy_title("Screw", "c3_r7_2"), copy_title("Screw", "c3")
    ('Screw · 2', 'Screw')
    """
    return " · ".join([name, *numbers_of(id)])


def left_out(built: Built, chosen: tuple[str, ...] = ()) -> list[str]:
    """Ids of the bodies that overlaps are not looked for in: those without a volume."""
    return [
        leaf.id
        for leaf in built.leaves
        if leaf.solid.form != "solid"
        and not leaf.reference
        and (not chosen or leaf.path[0] in chosen)
    ]


def leaf_titles(
    document: Document, other: Callable[[str], Document | None]
) -> Callable[[str], str]:
    """Names of the leaves of an assembly by their ids; what is gone is called by its id."""

    def title(leaf: str) -> str:
        names: list[str] = []
        here: Document | None = document
        for id in path_of(leaf):
            component = here.component(original_of(id)) if isinstance(here, Assembly) else None
            if component is None:
                return " / ".join([*names, id])
            names.append(copy_title(component.name, id))
            here = other(component.key)
        return " / ".join(names)

    return title
