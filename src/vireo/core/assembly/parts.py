"""A mechanism made small before it is solved: what is fixed together is one member, and what shares
no moving member is solved by itself."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

from vireo.core.assembly.mechanism import Mechanism, Mirror, Pair
from vireo.core.assembly.pose import Pose, quaternion_of
from vireo.core.declared.joint import CLOCKED, PARALLEL, POINT

_RIGID = {*POINT, *PARALLEL, *CLOCKED}


@dataclass(frozen=True)
class Merged:
    """`mechanism` has one member for each group, called and standing like its root; `group` and
    `inner` give for each member of the whole its group and its pose in it."""

    mechanism: Mechanism
    group: list[int]
    inner: list[Pose]

    def out(self, poses: Sequence[Pose]) -> list[Pose]:
        """Poses of the whole from those of the groups."""
        return [
            poses[g] @ pose if pose is not _STILL else poses[g]
            for g, pose in zip(self.group, self.inner, strict=True)
        ]


_STILL = Pose.still()


def rigid_pose(pair: Pair) -> Pose:
    """Pose of b in a where nothing moves between them."""
    rotation = pair.axes_a @ pair.axes_b.T
    origin = pair.origin_a + pair.offset * pair.axes_a[:, 2]
    return Pose(origin - rotation @ pair.origin_b, quaternion_of(rotation))


def merged(mechanism: Mechanism, fixed: bool = True) -> Merged:
    """What is tied together taken as one, and what is `fixed` by joints. Fixed joints that close a
    ring, or tie two anchored members, stay rows of their own: whether they hold is asked as of any
    other. What is tied to something anchored stands as still as that."""
    members = mechanism.members
    rigid = [p for p in mechanism.pairs if fixed and set(p.joint.rows) >= _RIGID and p.a != p.b]
    if not rigid and not mechanism.ties:
        return Merged(mechanism, list(range(len(members))), [_STILL] * len(members))
    held: dict[int, list[Pair]] = defaultdict(list)
    for pair in rigid:
        held[pair.a].append(pair)
        held[pair.b].append(pair)
    tied: dict[int, set[int]] = defaultdict(set)
    for tie in mechanism.ties:
        for i in tie:
            tied[i].update(tie)
    root = [-1] * len(members)
    inner = [_STILL] * len(members)
    used: set[str] = set()
    # Groups grow from what is anchored first, so that none has two such members.
    for start in sorted(range(len(members)), key=lambda i: not members[i].anchored):
        if root[start] >= 0:
            continue
        root[start] = start
        front = [start]
        while front:
            here = front.pop()
            for there in tied[here]:
                if root[there] >= 0 or members[there].anchored:
                    continue
                inner[there] = inner[here] @ (members[here].pose.inverse() @ members[there].pose)
                root[there] = start
                front.append(there)
            for pair in held[here]:
                there = pair.b if pair.a == here else pair.a
                if root[there] >= 0 or members[there].anchored:
                    continue
                between = rigid_pose(pair)
                inner[there] = inner[here] @ (between if pair.a == here else between.inverse())
                root[there] = start
                used.add(pair.id)
                front.append(there)
    roots = [i for i, r in enumerate(root) if r == i]
    place = {r: k for k, r in enumerate(roots)}
    group = [place[r] for r in root]
    sizes = [0.0] * len(roots)
    for i, g in enumerate(group):
        sizes[g] = max(sizes[g], members[i].size)
    pairs = tuple(
        replace(
            p.led(group), mirror=_mirror(p, group, inner),
            origin_a=inner[p.a].out(p.origin_a), axes_a=inner[p.a].rotation @ p.axes_a,
            origin_b=inner[p.b].out(p.origin_b), axes_b=inner[p.b].rotation @ p.axes_b,
        )
        for p in mechanism.pairs
        if p.id not in used
    )  # fmt: skip
    reference = mechanism.reference
    small = Mechanism(
        tuple(replace(members[r], size=sizes[k]) for k, r in enumerate(roots)),
        pairs,
        mechanism.couplings,
        tuple(reference[r] for r in roots) if reference else None,
    )
    return Merged(small, group, inner)


def _mirror(pair: Pair, group: Sequence[int], inner: Sequence[Pose]) -> Mirror | None:
    m = pair.mirror
    return m and Mirror(
        group[m.member], inner[m.member].out(m.origin), inner[m.member].rotation @ m.normal
    )


@dataclass(frozen=True)
class Part:
    """Some members of a mechanism with what ties them; `members` are their numbers in the whole."""

    mechanism: Mechanism
    members: list[int]


def split(mechanism: Mechanism) -> list[Part]:
    """A mechanism by what moves together: members that share a joint, or whose joints are coupled.
    Anchored members belong to all; joints between these alone are a part of their own."""
    members, pairs = mechanism.members, mechanism.pairs
    leader = list(range(len(members)))

    def find(i: int) -> int:
        while leader[i] != i:
            leader[i] = leader[leader[i]]
            i = leader[i]
        return i

    def tie(some: Sequence[int]) -> None:
        free = [i for i in some if not members[i].anchored]
        for i in free[1:]:
            leader[find(i)] = find(free[0])

    ends = {p.id: p.members for p in pairs}
    for p in pairs:
        tie(p.members)
    for c in mechanism.couplings:
        tie([i for t in c.terms if t.pair in ends for i in ends[t.pair]])
    ground = -1
    owned: dict[int, list[Pair]] = defaultdict(list)
    of_pair: dict[str, int] = {}
    for p in pairs:
        free = next((i for i in p.members if not members[i].anchored), None)
        of_pair[p.id] = ground if free is None else find(free)
        owned[of_pair[p.id]].append(p)
    moving: dict[int, list[int]] = defaultdict(list)
    for i, m in enumerate(members):
        if not m.anchored:
            moving[find(i)].append(i)
    found = []
    for lead in [*moving, *([ground] if ground in owned else [])]:
        held = sorted({i for p in owned[lead] for i in p.members if members[i].anchored})
        numbers = [*moving.get(lead, []), *held]
        at = {i: k for k, i in enumerate(numbers)}
        couplings = tuple(
            c for c in mechanism.couplings
            if any(of_pair.get(t.pair) == lead for t in c.terms)
        )  # fmt: skip
        reference = mechanism.reference
        found.append(
            Part(
                Mechanism(
                    tuple(members[i] for i in numbers),
                    tuple(p.led(at) for p in owned[lead]),
                    couplings,
                    tuple(reference[i] for i in numbers) if reference else None,
                ),
                numbers,
            )
        )
    return found
