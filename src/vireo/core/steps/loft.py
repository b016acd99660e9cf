"""Loft: a skin through sections of several sketches, with guides or eased ends where wanted."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.geometry import Triple, dot
from vireo.core.kernel.gate import KernelTrouble
from vireo.core.kernel.profile import outline_of
from vireo.core.kernel.sections import End, eased_body, misses
from vireo.core.kernel.shape import Body
from vireo.core.kernel.surfaces import lofted
from vireo.core.kernel.sweep import Section, guided, loft, placed_rim
from vireo.core.part.context import Context
from vireo.core.part.merge import delivered, stands_alone
from vireo.core.part.paths import run_of
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.profile import SOLID, surface_chains
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula

#: A guide may pass a section by this much and is taken to meet it (mm).
MEETS = 1e-3
_WORDS = {"free": "By itself", "upright": "Square to its plane"}


class LoftFields(f.StepFields):
    sections: tuple[str, ...] = f.sketches("Through", "Sketches in their order, first to last")
    profile: Literal["regions", "surface"] = f.choice(
        "Makes", "regions", {"regions": "A solid", "surface": "A surface"}
    )
    ruled: Literal["smooth", "ruled"] = f.choice(
        "Between them", "smooth", {"smooth": "Smooth", "ruled": "Straight"}
    )
    guides: tuple[str, ...] = f.sketches(
        "Guides", "Sketches of curves the skin follows", when=SOLID
    )
    start: Literal["free", "upright"] = f.choice("Leaves the first", "free", _WORDS, when=SOLID)
    start_pull: Formula = f.quantity(
        "number", "Pull at the first", "1", above=0, most=10, when={"start": ["upright"], **SOLID}
    )
    end: Literal["free", "upright"] = f.choice("Reaches the last", "free", _WORDS, when=SOLID)
    end_pull: Formula = f.quantity(
        "number", "Pull at the last", "1", above=0, most=10, when={"end": ["upright"], **SOLID}
    )
    seams: tuple[int, ...] = f.numbers("Corner each section starts at", when=SOLID)
    closed: bool = f.toggle("Close the ring", when=SOLID)
    result: f.Result = f.result(when=SOLID)
    into: tuple[str, ...] = f.into(SOLID)


@register
class Loft(StepKind[LoftFields]):
    kind = "loft"
    label = "Loft"
    group = "Grow"
    icon = "loft"
    order = 40
    line = "A body through sections of several sketches, along guides; a lone point ends in a tip"
    Fields = LoftFields
    example = """
low, high = Sketch(), Sketch()
low.circle(low.point(100, 0), 9)
high.circle(high.point(100, 0), 5)
sections = [part.sketch(drawing=low), part.sketch(drawing=high, plane=top)]
cone = part.loft("Nozzle", sections=sections)
"""
    version = 3
    copyable = True

    def build(self, fields: LoftFields, ctx: Context) -> Outcome:
        if fields.profile == "surface":
            return self._surface(fields, ctx)
        if len(fields.sections) < (3 if fields.closed else 2):
            least = "three" if fields.closed else "two"
            raise StepTrouble(f"choose {least} sketches at least", ["field:sections"])
        sections = [self._section(fields, ctx, n) for n in range(len(fields.sections))]
        eased = fields.start == "upright" or fields.end == "upright"
        if fields.guides and (eased or fields.closed or any(s.tip for s in sections)):
            raise StepTrouble(
                "with guides a loft is open, has outlines at both ends, and leaves them as the "
                "guides do",
                ["field:guides"],
            )
        try:
            if fields.guides:
                tool = self._guided(fields, ctx, sections)
            elif eased:
                tool = self._eased(fields, ctx, sections)
            else:
                tool = loft(
                    sections, fields.ruled == "ruled", fields.closed, ctx.step, fields.seams
                )
        except KernelTrouble as error:
            raise self._explained(error, fields, ctx, sections) from error
        return delivered(ctx, fields, tool, "this loft")

    def _surface(self, fields: LoftFields, ctx: Context) -> Outcome:
        if len(fields.sections) < 2:
            raise StepTrouble("choose two sketches at least", ["field:sections"])
        sections = []
        for n, id in enumerate(fields.sections, start=1):
            chains = surface_chains(id, (), ctx)
            if len(chains) != 1:
                raise StepTrouble(
                    f"section {n} ({ctx.sketch(id).name}) has {len(chains)} chains of curves; a "
                    "section of a surface is one, open or closed",
                    [f"step:{id}"],
                )
            sections += chains
        return stands_alone(ctx, lofted(sections, fields.ruled == "ruled", ctx.step))

    def _section(self, fields: LoftFields, ctx: Context, n: int) -> Section:
        id = fields.sections[n]
        data = ctx.sketch(id)
        last = len(fields.sections) - 1
        regions = [r for r in ctx.arrangement(id).regions if r.depth == 0]
        if not regions and len(data.points) == 1 and n in (0, last) and not fields.closed:
            return Section(tip=data.frame.out(next(iter(data.points.values()))))
        if len(regions) != 1:
            raise StepTrouble(
                f"section {n + 1} ({data.name}) has {len(regions) or 'no'} regions; a section is "
                "one closed outline" + (", or a lone point" if n in (0, last) else ""),
                [f"step:{id}"],
            )
        return Section(outline_of(ctx.arrangement(id), regions), data.frame)

    def _guided(self, fields: LoftFields, ctx: Context, sections: list[Section]) -> Body:
        guides = [run_of(id, (), "guides", ctx).wire for id in fields.guides]
        if len(guides) < 2:
            raise StepTrouble("a skin follows two guides or more", ["field:guides"])
        off = misses([placed_rim(s) for s in sections], guides, MEETS)
        if off:
            worst = max(off, key=lambda m: m.gap)
            guide, section = ctx.sketch(fields.guides[worst.guide]), worst.section
            x, y, z = worst.at
            raise StepTrouble(
                f"the guide {guide.name} misses section {section + 1} "
                f"({ctx.sketch(fields.sections[section]).name}) by {worst.gap:.3g} mm near "
                f"({x:.1f}, {y:.1f}, {z:.1f}); tie it to the section by a crossing point"
                + (f" ({len(off)} misses in all)" if len(off) > 1 else ""),
                [f"step:{fields.guides[worst.guide]}", f"step:{fields.sections[section]}",
                 f"point:{x:.3f},{y:.3f},{z:.3f}"],
            )  # fmt: skip
        return guided(sections, guides, ctx.step, MEETS)

    def _eased(self, fields: LoftFields, ctx: Context, sections: list[Section]) -> Body:
        if len(sections) != 2 or any(s.tip for s in sections) or fields.closed:
            raise StepTrouble(
                "the way a loft leaves its ends can be given between two outlines; with more, put "
                "a section close to the end instead",
                ["field:start", "field:end"],
            )
        straight = loft(sections, True, False, ctx.step, fields.seams)
        a, b = (s.frame for s in sections)
        across: Triple = tuple(q - p for p, q in zip(a.origin, b.origin, strict=True))  # type: ignore[assignment]

        def end(word: str, z: Triple, pull: str) -> End | None:
            if word == "free":
                return None
            # Along the way to the other section, whichever side the sketch looks to.
            sign = 1.0 if dot(z, across) >= 0 else -1.0
            return End((sign * z[0], sign * z[1], sign * z[2]), ctx.value(pull))

        return eased_body(
            straight, end(fields.start, a.z, "start_pull"), end(fields.end, b.z, "end_pull"),
            "the loft",
        )  # fmt: skip

    def _explained(
        self, error: KernelTrouble, fields: LoftFields, ctx: Context, sections: list[Section]
    ) -> StepTrouble:
        """Which two sections cannot be joined, found by trying each pair."""
        for n in range(len(sections) - 1):
            try:
                loft(sections[n : n + 2], True, False, ctx.step)
            except KernelTrouble:
                a, b = (ctx.sketch(fields.sections[k]).name for k in (n, n + 1))
                return StepTrouble(
                    f"{error.text}: sections {n + 1} ({a}) and {n + 2} ({b}) cannot be joined even "
                    "by straight lines; see that they do not cross and look the same way",
                    [f"step:{fields.sections[n]}", f"step:{fields.sections[n + 1]}"],
                )
        return StepTrouble(
            f"{error.text}: each two neighbours can be joined, all together cannot; try Straight, "
            "or fewer sections",
            [f"step:{ctx.step}"],
        )

    def caption(self, fields: LoftFields) -> str:
        return f"{len(fields.sections)} sections"
