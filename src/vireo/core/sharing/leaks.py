"""What a share copy tells that it should not: asked of the file that was written."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np

from vireo.core.exchange.steptext import strings
from vireo.core.kernel.intake import read_shape
from vireo.core.kernel.lying import Surroundings, places_on
from vireo.core.kernel.outer import shells_in
from vireo.core.kernel.shape import Body, faces_of, solids_of
from vireo.core.sharing.copy import Shared


def leaks(
    data: bytes, made: Shared, secrets: Iterable[str], load: Callable[[str], Body]
) -> list[str]:
    """What a written copy holds that outsiders are not to find: faces of what is hidden or closed,
    voids, names of what is left out, `secrets` (values of properties). Read off the file."""
    found = []
    shape = read_shape(data).shape
    still = (np.eye(3), np.zeros(3))
    there = Surroundings([(f, *still) for f in faces_of(shape)])
    allowed = Surroundings(
        [(load(x.solid.key).faces[k], x.pose.rotation, x.pose.p) for x, k in made.outer]
        + [(f, p.rotation, p.position) for p in made.boxes for f in p.body.faces]
    )
    counts: dict[str, int] = {}
    for leaf, face in made.inner:
        at = [leaf.pose.out(p) for p in places_on(load(leaf.solid.key), face)]
        # Where something shown lies as well it is no secret: a shaft in its bore.
        if any(there.holds(p) and not allowed.holds(p) for p in at):
            counts[leaf.names[0]] = counts.get(leaf.names[0], 0) + 1
    for name, count in counts.items():
        found.append(f"{count} inner face{'s' * (count > 1)} of {name}")
    exact = {x.solid.key for x, _ in made.outer}
    voids = shells_in(shape) - len(solids_of(shape))
    meant = sum(
        shells_in(p.body.shape) - len(solids_of(p.body.shape))
        for p in made.placed
        if p.key in exact
    )
    if voids > meant:
        many = voids - meant > 1
        found.append(f"{voids - meant} void{'s' * many} inside {'solids' if many else 'a solid'}")
    text = {t.casefold() for t in strings(data)}
    for name in sorted(made.names):
        if name.casefold() in text:
            found.append(f"the name “{name}”")
    for secret in sorted({s for s in secrets if len(s) > 3}):
        if any(secret.casefold() in t for t in text):
            found.append(f"the property “{secret}”")
    return found
