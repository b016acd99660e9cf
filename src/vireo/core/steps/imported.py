"""Imported body: what a STEP, IGES, BREP, STL or 3MF file kept with the project holds."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

import numpy as np

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.exchange.coarse import coarser
from vireo.core.exchange.meshfile import Triangles, read_mesh
from vireo.core.kernel.facets import MOST_FACES, Open, TooFine, closed, facet_body
from vireo.core.kernel.gate import checked
from vireo.core.kernel.heal import HAIR, Fault, diagnose, mended, sewn, tolerance_of
from vireo.core.kernel.intake import form_of, read_shape
from vireo.core.kernel.looks import Dress
from vireo.core.kernel.measure import volume_of
from vireo.core.kernel.shape import Body, faces_of, solids_of
from vireo.core.kernel.transform import settled
from vireo.core.naming.grammar import body_name, face_name
from vireo.core.part.context import Context
from vireo.core.part.datum import Dressed
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.trouble import Offer, Report

_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4}
_SHAPES, _MESH = {"form": ["!mesh"]}, {"form": ["mesh"]}


class ImportFields(f.StepFields):
    file: str = f.hidden("file")
    source: str = f.hidden("source", "")
    form: Literal["step", "iges", "brep", "mesh"] = f.hidden("form", "step")
    mend: bool = f.toggle("Mend what is faulty")
    within: Formula = f.length("Close gaps up to", "0.01 mm", above=0, most=5, when=_SHAPES)
    dressed: bool = f.toggle("Its names and colours", True, when={"form": ["step"]})
    unit: Literal["mm", "cm", "m", "inch"] = f.choice(
        "Its unit", "mm", {"mm": "mm", "cm": "cm", "m": "m", "inch": "inch"}, when=_MESH
    )
    most: Formula = f.quantity(
        "number", "Triangles (0: all)", "0", least=0, most=400_000, when=_MESH
    )


@register
class Import(StepKind[ImportFields]):
    kind = "import"
    label = "Import"
    group = "Grow"
    icon = "import"
    order = 60
    line = "Bodies of a STEP, IGES or BREP file, or a mesh (STL, 3MF) to refer to"
    Fields = ImportFields
    version = 3

    def build(self, fields: ImportFields, ctx: Context) -> Outcome:
        data = ctx.blob(fields.file)
        if form_of(data) == "mesh":
            return _delivered(*self._meshes(fields, ctx, data), ctx)
        contents = read_shape(data)
        shape = contents.shape
        if not solids_of(shape):
            shape = sewn(faces_of(shape), HAIR)
        faults = diagnose(shape)
        notes: list[Report] = []
        if faults and not fields.mend:
            raise _faulty(ctx, faults, "this file has", _gap(faults))
        if faults:
            within = ctx.value("within")
            found = mended(shape, within)
            if found.left:
                raise _faulty(
                    ctx, found.left, f"within {within:g} mm it still has", _gap(found.left)
                )
            shape = found.shape
            done = ", ".join(found.done) or "nothing had to be moved"
            text = f"mended: {done}; edges now lie within {found.tolerance:.2g} mm"
            notes.append(Report(code="mended", text=text, where=[f"step:{ctx.step}"]))
        bodies = _bodies(shape, ctx)
        outcome = _delivered(bodies, notes, ctx)
        # Mending can make other solids of them: then nothing says which is which.
        if fields.dressed and len(contents.dresses) == len(bodies):
            dressed = zip(outcome.bodies, bodies, contents.dresses, strict=True)
            outcome.dress = {id: _named(dress, body, not faults) for id, body, dress in dressed}
        return outcome

    def _meshes(
        self, fields: ImportFields, ctx: Context, data: bytes
    ) -> tuple[list[Body], list[Report]]:
        meshes = read_mesh(data)
        made, notes = [], []
        for k, mesh in enumerate(meshes):
            name = face_name(ctx.step, k) if len(meshes) > 1 else ctx.step
            sized = Triangles(np.asarray(mesh.points * _MM[fields.unit]), mesh.corners)
            try:
                whole = closed(sized, fields.mend)
            except Open as hole:
                raise StepTrouble(
                    f"{hole.text}; flat lids can close them", [f"step:{ctx.step}", "field:mend"],
                    [Offer(label="Close the holes", fields={"mend": True})], hole.lines,
                ) from hole  # fmt: skip
            most = round(ctx.value("most"))
            if most and (many := len(whole.corners)) > most:
                whole, moved = coarser(whole, most)
                text = (
                    f"made coarser: {len(whole.corners)} triangles of {many}, the surface moved "
                    f"by at most {moved:.2g} mm"
                )
                notes.append(Report(code="coarser", text=text, where=[f"step:{ctx.step}"]))
            try:
                made.append(facet_body(closed(whole, close=False), name))
            except TooFine as fine:
                _, moved = coarser(whole, MOST_FACES)
                label = f"Make it coarser, within {moved:.2g} mm"
                raise StepTrouble(
                    fine.text, [f"step:{ctx.step}", "field:most"],
                    [Offer(label=label, fields={"most": f"{MOST_FACES}"})],
                ) from fine  # fmt: skip
        return made, notes

    def caption(self, fields: ImportFields) -> str:
        return fields.source


def _bodies(shape: Any, ctx: Context) -> list[Body]:
    """Every solid, faces named ``<step>/solid<i>/face<j>`` in the file's order."""
    found = []
    for k, solid in enumerate(solids_of(shape)):
        right = solid.Reversed() if volume_of(solid) < 0 else solid
        names = tuple(
            face_name(ctx.step, f"solid{k}", f"face{j}") for j in range(len(faces_of(right)))
        )
        found.append(settled(Body(checked("the imported solid", right), names)))
    if not found:
        raise StepTrouble("this file holds no solid, only surfaces or curves", [f"step:{ctx.step}"])
    return found


def _named(dress: Dress, body: Body, whole: bool) -> Dressed:
    """A dress with its faces by name; without them where mending may have put others in place."""
    faces = {body.names[i]: tone for i, tone in dress.faces.items()} if whole else {}
    return Dressed(dress.name, dress.colour, faces)


def _delivered(bodies: Sequence[Body], notes: Sequence[Report], ctx: Context) -> Outcome:
    ids = [body_name(ctx.step, k or "") for k in range(len(bodies))]
    told = list(notes)
    for body in bodies:
        if not told and (loose := tolerance_of(body.shape)) > 1e-3:
            text = f"edges of this file only lie within {loose:.2g} mm of its faces"
            told.append(Report(code="loose", text=text, where=[f"step:{ctx.step}"]))
    return Outcome(bodies=dict(zip(ids, bodies, strict=True)), notes=told)


def _gap(faults: Sequence[Fault]) -> float | None:
    """How far gaps have to be closed, if that is all that is wrong."""
    widths = [x.width for x in faults if x.kind == "gap"]
    return max(widths) if widths and len(widths) == len(faults) else None


def _faulty(ctx: Context, faults: Sequence[Fault], says: str, gap: float | None) -> StepTrouble:
    """What is wrong, the places lit up, and what would mend it."""
    first = "; ".join(x.text for x in faults[:2])
    more = f" and {len(faults) - 2} more" if len(faults) > 2 else ""
    x, y, z = faults[0].at
    text = f"{says} {len(faults)} faults: {first}{more}; the first lies near ({x:.1f}, {y:.1f}, {z:.1f})"
    if len(faults) == 1:
        text = f"{says} {first}, near ({x:.1f}, {y:.1f}, {z:.1f})"
    offers = []
    if gap is not None:
        close = float(f"{1.2 * gap:.1g}") if gap > 1e-4 else 1e-3
        close = close if close > gap else 2 * close
        fields = {"mend": True, "within": f"{close:g} mm"}
        offers.append(Offer(label=f"Mend, closing gaps up to {close:g} mm", fields=fields))
    elif not says.startswith("within"):
        offers.append(Offer(label="Try to mend it", fields={"mend": True}))
    lines = [line for x in faults[:60] for line in x.lines]
    where = [f"step:{ctx.step}", f"point:{x:.3f},{y:.3f},{z:.3f}"]
    return StepTrouble(text, where, offers, lines)
