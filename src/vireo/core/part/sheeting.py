"""What steps of sheet metal share: which edge of which panel is picked, handing a sheet on."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from vireo.core.curves import Pair
from vireo.core.declared import fields as f
from vireo.core.kernel.gate import checked
from vireo.core.kernel.measure import volume_of
from vireo.core.naming import Pick
from vireo.core.naming.grammar import face_name, parts_of
from vireo.core.panels.joints import Patch, patches
from vireo.core.panels.loops import area
from vireo.core.part.context import Context
from vireo.core.part.lining import OnPanel
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.sheet.blanks import crossing
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.clash import clashes
from vireo.core.sheet.flange import Flange, Spot, flanged, named
from vireo.core.sheet.forming import amiss
from vireo.core.trouble import Report

#: What the solid may weigh other than its panels and bends do by closed form: their second witness.
_OFF = 1e-6


@dataclass(frozen=True)
class Wall:
    """A wall of a sheet: the panel, which piece of its outline, what that is called; `up` where the edge
    picked is at its top."""

    panel: str
    spot: Spot
    piece: str
    up: bool

    @property
    def key(self) -> str:
        """What bends on it are called by."""
        return f"{self.panel}.{self.piece}".replace("/", ".")


def handed(
    ctx: Context, made: Mapping[str, SheetBody], new: Iterable[str] = (), notes: Sequence[Report] = ()
) -> Outcome:  # fmt: skip
    """Sheets a step made, by their bodies: sound, as heavy as their panels and bends are, and clear of
    themselves. `new` are the patches that may have come to run into others. Raises StepTrouble."""
    bodies = {}
    for id, sheet in made.items():
        _simple(ctx, sheet, set(new))
        body = sheet.body()
        checked("this step of the sheet", body.shape)
        volume, told = volume_of(body.shape), _volume(sheet)
        if abs(volume - told) > _OFF * told:
            raise StepTrouble(
                f"the solid of the sheet has {volume:.6g} mm3 and its panels and bends have {told:.6g} mm3: it "
                "cannot be made right"
            )
        for clash in clashes(sheet, set(new)):
            x, y, z = clash.at
            raise StepTrouble(
                f"the sheet would run into itself: {clash.volume:.4g} mm3 near ({x:.1f}, {y:.1f}, {z:.1f}); "
                "make the flange shorter or narrower, change its angle, or leave room for it",
                [f"step:{ctx.step}", f"point:{x:.3f},{y:.3f},{z:.3f}"],
            )
        bodies[id] = body
    return Outcome(bodies=bodies, sheets=dict(made), notes=list(notes))


def _simple(ctx: Context, made: SheetBody, new: set[str]) -> None:
    """Raises StepTrouble where an outline crosses itself, or a form is not all in flat sheet: no solid can be made of
    it, and it says nothing of why."""
    outlines = {p.id: p.loops for p in made.sheet.panels.values()}
    outlines |= {b.id: b.loops for b in made.sheet.bends.values()}
    for id in new & outlines.keys():
        at = crossing(outlines[id])
        if at is not None:
            x, y, z = made.places()[id].at(at, 0.5 * made.sheet.thickness)
            raise StepTrouble(
                f"cuts and reliefs would cross each other near ({x:.1f}, {y:.1f}, {z:.1f}): keep a flange further off "
                "the corner or let it take the whole edge, or make the relief narrower",
                [f"step:{ctx.step}", f"point:{x:.3f},{y:.3f},{z:.3f}"],
            )

    for id in new & made.sheet.panels.keys():
        wrong = amiss(made.sheet.panels[id])
        if wrong is not None:
            form, what, at = wrong
            x, y, z = made.places()[id].at(at, 0.5 * made.sheet.thickness)
            raise StepTrouble(
                f"a {form.pressing.kind} {what} near ({x:.1f}, {y:.1f}, {z:.1f}): keep flat sheet all round it",
                [f"step:{ctx.step}", f"point:{x:.3f},{y:.3f},{z:.3f}"],
            )


def _volume(made: SheetBody) -> float:
    """By closed form, bends that are open laid flat."""
    if not made.opened:
        return made.sheet.volume
    sheet = made.sheet
    lost = 0.0
    for id in made.opened:
        bend = sheet.bends[id]
        rolled = abs(bend.angle) * (bend.radius + sheet.thickness / 2)
        lost += area(bend.loops) * sheet.thickness * (1.0 - rolled / bend.allowance)
    return sheet.volume + lost


def walls_of(
    ctx: Context, picks: Sequence[Pick], field: str
) -> dict[str, tuple[SheetBody, list[Wall]]]:
    """The walls that picked edges run along, by body. Raises LostPick for one that is gone, StepTrouble for one
    that is no long edge of a panel."""
    found: dict[str, tuple[SheetBody, list[Wall]]] = {}
    parts: dict[str, dict[str, Patch]] = {}
    for pick in picks:
        if pick.body not in found:
            if pick.body not in ctx.all_ids():
                ctx.find(pick, field, picks)
            found[pick.body] = (ctx.sheet(pick.body), [])
            parts[pick.body] = patches(found[pick.body][0].sheet)
        sheet, walls = found[pick.body]
        wall = _wall(ctx, sheet, parts[pick.body], pick, field, picks)
        if wall.spot in [w.spot for w in walls if w.panel == wall.panel]:
            text = "both edges of one wall are picked: one of them is enough"
            raise StepTrouble(text, [f"field:{field}"])
        walls.append(wall)
    return found


def _wall(
    ctx: Context, made: SheetBody, parts: Mapping[str, Patch], pick: Pick, field: str,
    picks: Sequence[Pick],
) -> Wall:  # fmt: skip
    name = pick.name
    wall = wall_named(parts, name)
    if wall is None:
        # Names alone did not tell: it is gone, or it is called otherwise now.
        index, topology = ctx.find(pick, field, picks)
        wall = wall_named(parts, topology.edge_name(index))
    if wall is None or wall.panel not in made.sheet.panels:
        raise StepTrouble(
            "pick a long edge of a flat piece of the sheet, where its top or bottom meets a wall",
            [f"step:{ctx.step}", f"field:{field}"],
        )
    return wall


def wall_named(parts: Mapping[str, Patch], name: Sequence[str]) -> Wall | None:
    """The wall beside the edge that two faces meet in."""
    answers = {one for face in name for one in parts_of(face)}
    for patch in parts.values():
        tops = [w for w in ("top", "bottom") if any(_side(a, patch.id, w) for a in answers)]
        if not tops:
            continue
        for (n, i), called in patch.walls:
            if called in answers:
                return Wall(
                    patch.id, (n, patch.whole[n, i]), patch.loops[n][i].name, tops[0] == "top"
                )
    return None


def corners_of(
    ctx: Context, picks: Sequence[Pick], field: str
) -> dict[str, tuple[SheetBody, list[tuple[str, str, str]]]]:
    """The corners of flat pieces that picked upright edges stand in, by body: the panel and what the two walls
    are called, in the order of its outline. Raises LostPick, StepTrouble."""
    found: dict[str, tuple[SheetBody, list[tuple[str, str, str]]]] = {}
    for pick in picks:
        index, topology = ctx.find(pick, field, picks)
        made, corners = found.setdefault(pick.body, (ctx.sheet(pick.body), []))
        corner = _corner(patches(made.sheet), made, topology.edge_name(index))
        if corner is None:
            raise StepTrouble(
                "pick the short upright edge where two walls of a flat piece meet",
                [f"step:{ctx.step}", f"field:{field}"],
            )
        corners.append(corner)
    return found


def _corner(
    parts: Mapping[str, Patch], made: SheetBody, name: Sequence[str]
) -> tuple[str, str, str] | None:
    answers = {one for face in name for one in parts_of(face)}
    for panel in made.sheet.panels:
        part = parts[panel]
        at = [where for where, called in part.walls if called in answers]
        if len(at) != 2:
            continue
        (n, i), (m, j) = at
        count = len(part.loops[n])
        if n == m and (i + 1) % count == j:
            return panel, part.loops[n][i].name, part.loops[n][j].name
        if n == m and (j + 1) % count == i:
            return panel, part.loops[n][j].name, part.loops[n][i].name
    return None


def _side(face: str, patch: str, role: str) -> bool:
    """Whether a face is the top or bottom of a patch, or one of several such."""
    whole = face_name(patch, role)
    return face == whole or (face.startswith(f"{whole}.") and face[len(whole) + 1 :].isdigit())


def patch_of_face(made: SheetBody, name: str) -> tuple[str, bool] | None:
    """The panel or bend a face is the top (True) or bottom of; None where it is a wall."""
    for face in parts_of(name):
        for id in (*made.sheet.panels, *made.sheet.bends):
            for role in ("top", "bottom"):
                if _side(face, id, role):
                    return id, role == "top"
    return None


def changed(before: SheetBody, after: SheetBody) -> set[str]:
    """Patches that are new or other than they were."""
    was = {**before.sheet.panels, **before.sheet.bends}
    now = {**after.sheet.panels, **after.sheet.bends}
    return {id for id, patch in now.items() if was.get(id) != patch}


def on_edges(
    ctx: Context, picks: Sequence[Pick], field: str, flip: bool, wanted: Callable[[float, float], Flange]
) -> Outcome:  # fmt: skip
    """What one flange on each of some edges makes of their sheets. `wanted` tells it for a thickness and a gap of
    mitres, as it rises to the top."""
    made, new = {}, set()
    for id, (sheet, walls) in walls_of(ctx, picks, field).items():
        found = sheet
        for group in together(walls):
            flange = wanted(sheet.sheet.thickness, sheet.gap)
            if group[0].up == flip:
                flange = replace(
                    flange, runs=tuple(replace(r, angle=-r.angle) for r in flange.runs)
                )
            spots = {w.spot: w.key for w in group}
            found = found.with_(
                flanged(found.sheet, group[0].panel, spots, flange, found.rule, named(ctx.step))
            )
        made[id] = found
        new |= changed(sheet, found)
    return handed(ctx, made, new)


def together(walls: Sequence[Wall]) -> list[list[Wall]]:
    """Walls of one panel that rise to one side."""
    found: dict[tuple[str, bool], list[Wall]] = {}
    for wall in walls:
        found.setdefault((wall.panel, wall.up), []).append(wall)
    return list(found.values())


def staying(body: SheetBody, line: OnPanel, other: bool) -> tuple[SheetBody, Pair, Pair]:
    """The sheet hung so that what a line parts of a panel turns on the left of it: what the panel hangs on stays,
    else what is right of the line; with `other` it is the other way round."""
    d = line.d
    bend = next((b for b in body.sheet.bends.values() if b.child == line.panel), None)
    if bend is not None:
        # The joint lies along y = 0 of the panel.
        middle = 0.5 * bend.width
        left = d[0] * (0.0 - line.p[1]) - d[1] * (middle - line.p[0]) > 0.0
        d = (-d[0], -d[1]) if left else d
    if not other:
        return body, line.p, d
    # Seen from this panel all others hang on it.
    return body.rooted(line.panel), line.p, (-d[0], -d[1])


class BendsFields(f.StepFields):
    """Of steps that lay bends flat and bend them again."""

    bends: tuple[Pick, ...] = f.picks(
        "Bends", "face", "Click bends; none means all of them", free=True
    )
    into: tuple[str, ...] = f.bodies("Sheet")


def bends_chosen(ctx: Context, fields: BendsFields) -> tuple[str, list[str]]:
    """The sheet that bends are picked on, or chosen, or the only one, and the bends. Raises StepTrouble."""
    picks, field = fields.bends, "bends"
    bodies = {p.body for p in picks} or set(fields.into) or set(ctx.sheet_ids())
    if len(bodies) != 1:
        raise StepTrouble(
            "bends of one sheet at a time" if picks else "choose the sheet" if bodies
            else "there is no sheet yet: Plate makes one",
            [f"step:{ctx.step}", f"field:{field}"],
        )  # fmt: skip
    id = next(iter(bodies))
    return id, [_patch_picked(ctx, p, field, picks, id, bend=True) for p in picks]


def panel_picked(ctx: Context, picks: Sequence[Pick], field: str, body: str) -> str:
    """The one flat piece that is picked. Raises StepTrouble."""
    if len(picks) != 1:
        raise StepTrouble("pick one flat piece of the sheet", [f"field:{field}"])
    return _patch_picked(ctx, picks[0], field, picks, body, bend=False)


def _patch_picked(
    ctx: Context, pick: Pick, field: str, picks: Sequence[Pick], body: str, bend: bool
) -> str:
    made = ctx.sheet(body)
    index, topology = ctx.find(pick, field, picks)
    found = patch_of_face(made, topology.faces[index].name)
    if pick.body != body or found is None or (found[0] in made.sheet.bends) != bend:
        what = "the round face of a bend" if bend else "the top or bottom of a flat piece"
        raise StepTrouble(f"pick {what} of {ctx.body_title(body)}", [f"field:{field}"])
    return found[0]
