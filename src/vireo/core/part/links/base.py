"""The contract of a way to take geometry into a sketch, and the registry of them."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from vireo.core.curves import Curve2, Pair
from vireo.core.declared.fields import Brought, Underlay
from vireo.core.geometry import Frame
from vireo.core.naming import Topology
from vireo.core.part.context import Context
from vireo.core.part.trouble import LostPick, StepTrouble
from vireo.core.trouble import BadInput, Offer

#: Curves and points in the sketch plane, each with the suffix that names it within its link.
Found = list[tuple[str, Curve2 | Pair]]


@dataclass(frozen=True)
class Place:
    """Where a link ends: the plane of the sketch, and the layouts that lie under it."""

    frame: Frame
    underlays: Sequence[Underlay] = ()


class LinkWay:
    """Subclass, set the class attributes, write `bring`, decorate with `register`."""

    #: Stored in documents.
    name: ClassVar[str]
    label: ClassVar[str]
    #: One plain line for the tool.
    line: ClassVar[str]
    #: Its place among the ways offered.
    order: ClassVar[int]
    #: What it can be taken from: edge, face, vertex, body, curve, layout.
    takes: ClassVar[tuple[str, ...]]
    #: Whether what it brings only helps.
    construction: ClassVar[bool] = False
    #: Said when the source is there but gives nothing.
    nothing: ClassVar[str]

    def bring(self, one: Brought, place: Place, ctx: Context) -> Found:
        raise NotImplementedError


WAYS: dict[tuple[str, str], LinkWay] = {}


def register(cls: type[LinkWay]) -> type[LinkWay]:
    way = cls()
    for takes in cls.takes:
        if (cls.name, takes) in WAYS:
            raise ValueError(f"two ways are called {cls.name} on {takes}")
        WAYS[cls.name, takes] = way
    return cls


def way_of(one: Brought) -> LinkWay:
    """The way of a link. Raises BadInput when there is none of its name for its source."""
    found = WAYS.get((one.way, one.takes))
    if found is None:
        known = sorted(name for name, takes in WAYS if takes == one.takes)
        raise BadInput(f"“{one.way}” cannot be taken from a {one.takes}; known: {', '.join(known)}")
    return found


def brought_curves(
    one: Brought, every: Sequence[Brought], place: Place, ctx: Context
) -> tuple[Found, bool]:
    """What a link brings now, and whether that is construction.

    Raises LostPick, with the offer to leave the link out, when its source is gone or gives
    nothing any more.
    """
    way = way_of(one)
    rest = [b.model_dump(mode="json") for b in every if b.id != one.id]
    leave = Offer(label="Leave it out", fields={"brought": rest})
    try:
        found = way.bring(one, place, ctx)
    except LostPick as lost:
        # The offer changes this link and leaves the others.
        for offer in lost.offers:
            new = offer.fields.get("brought")
            dumped = [b.model_dump(mode="json") for b in every]
            put = [{**d, **_changed(one, new)} if d["id"] == one.id else d for d in dumped]
            offer.fields["brought"] = put
        lost.offers.append(leave)
        raise
    except StepTrouble as trouble:
        raise LostPick(trouble.text, trouble.where, [*trouble.offers, leave]) from trouble
    if not found:
        raise LostPick(way.nothing, [f"step:{ctx.step}"], [leave])
    return found, way.construction


def _changed(one: Brought, new: object) -> dict[str, object]:
    """The fields of a link an offer changes: a new pick, or new items of a layout."""
    if one.layout is not None:
        return {"layout": new}
    return {"pick": new}


def picked(one: Brought, ctx: Context) -> tuple[int, Topology]:
    """What the pick of a link stands for now."""
    assert one.pick is not None
    return ctx.find(one.pick, "brought")


def short(*words: str, letters: int = 5) -> str:
    """A short name that depends only on what is named."""
    return hashlib.sha256("|".join(words).encode()).hexdigest()[:letters]
