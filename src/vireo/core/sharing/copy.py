"""A share copy made: what is shown of each component, as bodies where they stand, and what must not be
in the file."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial

import numpy as np

from vireo.core.assembly.pose import Floats, Pose
from vireo.core.assembly.seats import Leaf
from vireo.core.digest import digest
from vireo.core.documents.kinds.assembly import Share
from vireo.core.kernel.exchange import Placed
from vireo.core.kernel.measure import box_of
from vireo.core.kernel.mesh import Mesh
from vireo.core.kernel.outer import boxed, outside, together
from vireo.core.kernel.place import located
from vireo.core.kernel.shape import Body
from vireo.core.kernel.transform import settled
from vireo.core.lately import Lately
from vireo.core.naming.grammar import original_of
from vireo.core.sharing.rules import Shown
from vireo.core.sharing.seen import Standing, faces_seen, openness

#: A face that others cover stays where, of its part alone, at least this share of ways out of it is
#: free: a seat, a shoulder. Bores and pockets lie deeper.
_OPEN = 0.35
#: What outsiders see where colours are not kept.
PLAIN = "#b8bcc2"


@dataclass
class Row:
    """A component of the copy: what is shown of it, faces before and after, whether it cannot be seen
    and is left out for that, inner faces that could not be closed."""

    component: str
    name: str
    shown: Shown
    before: int = 0
    after: int = 0
    hidden: bool = False
    left: int = 0


@dataclass
class Shared:
    rows: dict[str, Row] = field(default_factory=dict)
    placed: list[Placed] = field(default_factory=list)
    #: Faces that outsiders are not to find: leaf and index.
    inner: list[tuple[Leaf, int]] = field(default_factory=list)
    #: Faces they may: of what is shown exactly, and the outer ones of skins.
    outer: list[tuple[Leaf, int]] = field(default_factory=list)
    #: What stands as a box.
    boxes: list[Placed] = field(default_factory=list)
    #: Names they are not to find.
    names: set[str] = field(default_factory=set)
    #: Documents that are shown, exactly or by their outer skin.
    documents: set[str] = field(default_factory=set)


Load = Callable[[str], Body]
#: Skins, and how many inner faces each has left, by what they are made of: another rule leaves most.
_SKINS = Lately[str, tuple[Body, int]](256)
#: Faces that lie open by themselves, by body.
_SEATS = Lately[str, set[int]](512)


def shared(
    share: Share,
    shown: Mapping[str, Shown],
    leaves: Sequence[Leaf],
    load: Load,
    mesh: Callable[[str], Mesh],
) -> Shared:
    """The copy of an assembly whose `leaves` stand as they do. `load` and `mesh` give bodies by key."""
    made = Shared()
    groups: dict[str, list[Leaf]] = {}
    for leaf in leaves:
        if leaf.solid.form == "solid":
            groups.setdefault(leaf.path[0], []).append(leaf)
    there = [
        x for id, some in groups.items() if shown[original_of(id)].level != "out" for x in some
    ]
    standing = [Standing(mesh(x.solid.key), x.pose.rotation, x.pose.p) for x in there]
    seen = {x.id: s for x, s in zip(there, faces_seen(standing), strict=True)}
    alike = _alike(there, seen)
    seats: dict[str, set[int]] = {}
    for kind in [k for k, faces in alike.items() if faces]:
        key = kind[-1]
        if key not in seats:
            seats[key] = _SEATS.get(key, partial(_seats, key, mesh))
        alike[kind] |= seats[key]
    for id, some in groups.items():
        what = shown[original_of(id)]
        row = made.rows[id] = Row(id, some[0].names[0], what)
        row.before = sum(len(load(x.solid.key).faces) for x in some)
        if what.level == "exact":
            made.placed += [_exact(share, x, load) for x in some]
            made.documents |= {x.document for x in some}
            made.outer += [(x, k) for x in some for k in range(len(load(x.solid.key).faces))]
            row.after = row.before
            continue
        visible = [x for x in some if seen.get(x.id)]
        row.hidden = what.level == "skin" and not visible
        for x in some:
            outer = alike[_kind(x)] if what.level == "skin" and seen.get(x.id) else set()
            for k in range(len(load(x.solid.key).faces)):
                (made.outer if k in outer else made.inner).append((x, k))
        if row.hidden or what.level == "out":
            made.names |= {n for x in some for n in (*x.names, x.solid.name) if n}
            continue
        made.names |= {n for x in some for n in (*x.names[1:], x.solid.name) if n}
        made.documents |= {x.document for x in visible if what.level == "skin"}
        base = some[0].pose
        key = digest(
            ["share", what.level, share.small,
             *([x.solid.key, sorted(alike[_kind(x)]), np.round(_from(base, x), 6).tolist()]
               for x in (visible or some))]
        )  # fmt: skip
        body, row.left = _SKINS.get(
            key,
            partial(_box, some, base, load)
            if what.level == "box"
            else partial(_skin, visible, base, alike, seats, share.small, load),
        )
        row.after = len(body.faces)
        put = (
            Placed(row.name, body, some[0].solid.colour if share.looks else PLAIN, base.rotation,
                   base.p, row.name, {}, key, (id,), (row.name,))
        )  # fmt: skip
        made.placed.append(put)
        if what.level == "box":
            made.boxes.append(put)
    for leaf in leaves:
        # Surfaces have no inside to hide: what is nothing else is left out, and says so.
        if leaf.path[0] not in groups and leaf.path[0] not in made.rows:
            rule = shown[original_of(leaf.path[0])].rule
            made.rows[leaf.path[0]] = Row(leaf.path[0], leaf.names[0], Shown("out", rule))
            made.names |= {n for n in (*leaf.names, leaf.solid.name) if n}
    kept = {p.called for p in made.placed} | {t for p in made.placed for t in p.titles}
    made.names -= kept | {p.name for p in made.placed}
    return made


def _seats(key: str, mesh: Callable[[str], Mesh]) -> set[int]:
    """Faces of a body that lie open by themselves, whatever covers them."""
    (free,) = openness([Standing(mesh(key), np.eye(3), np.zeros(3))])
    return set(np.flatnonzero(free >= _OPEN).tolist())


def _alike(leaves: Sequence[Leaf], seen: Mapping[str, set[int]]) -> dict[tuple[str, ...], set[int]]:
    """Faces seen at any of equal bodies: these then are one shape in the copy."""
    found: dict[tuple[str, ...], set[int]] = {}
    for leaf in leaves:
        found.setdefault(_kind(leaf), set()).update(seen[leaf.id])
    return found


def _kind(leaf: Leaf) -> tuple[str, ...]:
    return (original_of(leaf.path[0]), *leaf.path[1:], leaf.solid.key)


def _exact(share: Share, leaf: Leaf, load: Load) -> Placed:
    solid = leaf.solid
    return Placed(
        leaf.name, load(solid.key), solid.colour if share.looks else PLAIN, leaf.pose.rotation,
        leaf.pose.p, solid.name, solid.paints if share.looks else {}, solid.key, leaf.path, leaf.names,
    )  # fmt: skip


def _from(base: Pose, leaf: Leaf) -> Floats:
    return np.asarray((base.inverse() @ leaf.pose).matrix())


def _seen_from(base: Pose, leaf: Leaf, body: Body) -> Body:
    at = base.inverse() @ leaf.pose
    return settled(Body(located(body.shape, at.rotation, at.p), body.names))


def _box(some: Sequence[Leaf], base: Pose, load: Load) -> tuple[Body, int]:
    boxes = [box_of(_seen_from(base, x, load(x.solid.key)).shape) for x in some]
    low, high = (np.array([b[k] for b in boxes]) for k in (0, 1))
    return boxed(low.min(axis=0).tolist(), high.max(axis=0).tolist()), 0


def _skin(
    some: Sequence[Leaf],
    base: Pose,
    alike: Mapping[tuple[str, ...], set[int]],
    seats: Mapping[str, set[int]],
    small: float,
    load: Load,
) -> tuple[Body, int]:
    bodies, left = [], 0
    for leaf in some:
        body = load(leaf.solid.key)
        inner = set(range(len(body.faces))) - alike[_kind(leaf)]
        deep = set(range(len(body.faces))) - seats[leaf.solid.key]
        found = outside(body, inner, small, deep)
        left += len(set(found.left) & inner)
        bodies.append(_seen_from(base, leaf, found.body))
    return together(bodies), left
