"""Sweep: a profile taken along a path."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Frame
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.profile import Outline, outline_of
from vireo.core.kernel.surfaces import swept
from vireo.core.kernel.sweep import (
    Folds,
    Path,
    Way,
    failing_piece,
    on_rim,
    on_start,
    stands_at,
    sweep,
    together,
)
from vireo.core.naming.grammar import face_name
from vireo.core.part.context import Context
from vireo.core.part.merge import delivered, stands_alone
from vireo.core.part.paths import PathFields, paths_of, run_of
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.profile import SOLID, surface_chains
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula
from vireo.core.trouble import Report


class SweepFields(PathFields):
    sketch: str = f.sketch("Profile")
    profile: Literal["regions", "surface"] = f.choice(
        "Makes", "regions", {"regions": "A solid", "surface": "A surface"}
    )
    regions: tuple[f.RegionPick, ...] = f.regions("sketch", when=SOLID)
    chains: tuple[str, ...] = f.curves("sketch", "Of the curves", when={"profile": ["surface"]})
    keep: Literal["follow", "upright", "fixed", "guided"] = f.choice(
        "Profile turns", "follow",
        {"follow": "With the path", "upright": "Staying upright", "fixed": "Not at all",
         "guided": "By a guide"},
    )  # fmt: skip
    twist: Formula = f.quantity(
        "angle", "Twist", "0 deg", least=-36000, most=36000, when={"keep": ["follow"]}
    )
    guide: str = f.later_sketch("Guide sketch", when={"keep": ["guided"]})
    guide_does: Literal["turn", "size"] = f.choice(
        "The guide", "turn", {"turn": "Turns it", "size": "Turns and sizes it"},
        when={"keep": ["guided"]},
    )  # fmt: skip
    grow: Formula = f.quantity("number", "Size at the end", "1", above=0.01, most=100)
    result: f.Result = f.result(when=SOLID)
    into: tuple[str, ...] = f.into(SOLID)


@register
class Sweep(StepKind[SweepFields]):
    kind = "sweep"
    label = "Sweep"
    group = "Grow"
    icon = "sweep"
    order = 30
    line = "Take regions of a sketch along a path of another or along edges"
    Fields = SweepFields
    example = """
path = Sketch()
path.line(path.point(0, 0), path.point(0, 50))
round_ = Sketch()
round_.circle(round_.point(0, 0), 4)
rail = part.sweep("Rail", path=part.sketch(drawing=path, plane="XZ"), sketch=part.sketch(drawing=round_))
"""
    copyable = True

    def build(self, fields: SweepFields, ctx: Context) -> Outcome:
        paths = paths_of(fields, ctx)
        if fields.profile == "surface":
            return self._surface(fields, ctx, paths)
        chosen = ctx.regions(fields.sketch, fields.regions, "regions")
        outline = outline_of(ctx.arrangement(fields.sketch), chosen)
        own = ctx.sketch(fields.sketch).frame
        way = self._way(fields, ctx, paths)
        made = []
        placed = False
        for n, path in enumerate(paths):
            # Round a rim the profile goes where it belongs; else it stays where it was drawn.
            frame = on_rim(path) if path.face is not None else own
            name = face_name(ctx.step, n) if len(paths) > 1 else ctx.step
            try:
                made.append(sweep(outline, frame, path, way, name))
                continue
            except KernelTrouble as error:
                if fields.along not in ("edges", "each") or stands_at(own, path):
                    raise self._explained(error, outline, frame, path, way, ctx) from error
            # Drawn elsewhere than across the start of the edges, it is put there.
            frame, placed = on_start(path), True
            try:
                made.append(sweep(outline, frame, path, way, name))
            except KernelTrouble as error:
                raise self._explained(error, outline, frame, path, way, ctx) from error
        outcome = delivered(ctx, fields, together(made, "the sweeps"), "this sweep")
        if placed:
            text = "the profile was put square to the start of the path, its origin on it"
            outcome.notes.append(Report(code="placed", text=text, where=[f"step:{ctx.step}"]))
        return outcome

    def _surface(self, fields: SweepFields, ctx: Context, paths: Sequence[Path]) -> Outcome:
        if len(paths) > 1:
            raise StepTrouble(
                "a surface is swept along one path; make a step for each", ["field:along"]
            )
        if paths[0].face is not None:
            raise StepTrouble(
                "a surface is swept along a path of a sketch or edges", ["field:along"]
            )
        chains = surface_chains(fields.sketch, fields.chains, ctx)
        way = self._way(fields, ctx, paths)
        return stands_alone(ctx, swept(chains, paths[0], way, ctx.step))

    def _way(self, fields: SweepFields, ctx: Context, paths: Sequence[Path]) -> Way:
        twist = ctx.value("twist") if fields.keep == "follow" else 0.0
        guide = None
        if fields.keep == "guided":
            if not fields.guide:
                raise StepTrouble("choose the sketch of the guide", ["field:guide"])
            guide = run_of(fields.guide, (), "guide", ctx).wire
        if (twist or guide) and any(p.closed for p in paths):
            raise StepTrouble("along a closed path a profile is neither twisted nor guided")
        if (twist or guide) and abs(ctx.value("grow") - 1.0) > 1e-9:
            raise StepTrouble("it is either turned by a twist or guide, or sized along the path")
        keep = "follow" if fields.keep == "guided" else fields.keep
        return Way(
            fields.corners, keep, grow=ctx.value("grow"), twist=twist, guide=guide,
            sized=fields.guide_does == "size",
        )  # fmt: skip

    def _explained(
        self, error: KernelTrouble, outline: Outline, frame: Frame, path: Path, way: Way,
        ctx: Context,
    ) -> StepTrouble:  # fmt: skip
        """Why a sweep failed: where it folds, else the first piece that fails by itself too."""
        where = [f"step:{ctx.step}", *error.where]
        text = error.text
        if isinstance(error, Folds):
            return StepTrouble(f"{text}; make the bend wider or the profile smaller", where)
        if not path.closed and not stands_at(frame, path):
            start, along = path.start()
            x, y, z = start.X(), start.Y(), start.Z()
            return StepTrouble(
                f"{text}: draw the profile on a plane through ({x:.4g}, {y:.4g}, {z:.4g}) mm, where "
                f"the path starts, square to ({along[0]:.3g}, {along[1]:.3g}, {along[2]:.3g})",
                where,
            )
        piece = failing_piece(outline, frame, path, way)
        if piece is not None:
            text += f"; its piece {piece} cannot be swept by itself either"
        elif len(path.edges) > 1:
            text += (
                "; each piece of the path can be swept by itself, so it is where they meet: round "
                "the corners of the path, or sweep the pieces as steps of their own"
            )
        return StepTrouble(text, where)
