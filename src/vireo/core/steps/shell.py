"""Shell: a body hollowed to a wall."""

from __future__ import annotations

from typing import Literal

from vireo.core.declared import fields as f
from vireo.core.declared.step import StepKind, register
from vireo.core.kernel.boolean import combine
from vireo.core.kernel.dress import shell
from vireo.core.kernel.shape import Body
from vireo.core.naming import Pick
from vireo.core.naming.grammar import face_name
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted, put_earlier
from vireo.core.part.picking import faces_by_body
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.trouble import StepTrouble
from vireo.core.quantity import Formula


class ShellFields(f.StepFields):
    open: tuple[Pick, ...] = f.picks("Open at", "face", "Click faces to leave open", free=True)
    wall: Formula = f.length("Wall", "2 mm", above=0, key="t")
    grow: Literal["in", "out", "both"] = f.choice(
        "Wall grows", "in", {"in": "Inwards", "out": "Outwards", "both": "Both ways"}
    )
    others: tuple[Pick, ...] = f.picks(
        "Other wall at", "face", "Click faces with a wall of their own", free=True
    )
    other: Formula = f.length("Other wall", "3 mm", above=0)
    bodies: tuple[str, ...] = f.bodies("Bodies")


@register
class Shell(StepKind[ShellFields]):
    kind = "shell"
    label = "Shell"
    group = "Faces"
    icon = "shell"
    order = 10
    line = "Hollow a body to a wall, open where chosen"
    Fields = ShellFields
    example = """
tray = part.shell("Tray", open=[top], wall=2)
"""
    deciding = ("wall",)

    def build(self, fields: ShellFields, ctx: Context) -> Outcome:
        open_ = faces_by_body(fields.open, "open", ctx)
        others = faces_by_body(fields.others, "others", ctx)
        ids = list(open_) or list(fields.bodies) or ctx.chosen((), "hollow")[:1]
        outcome = Outcome()
        for id in ids:
            body, faces = ctx.body(id), open_.get(id, [])
            if len(faces) == len(body.faces):
                raise StepTrouble("with all faces open nothing is left of the body")
            both = set(faces) & set(others.get(id, ()))
            if both:
                raise StepTrouble("a face cannot be open and have a wall", ["field:others"])
            walls = dict.fromkeys(others.get(id, ()), ctx.value("other"))

            def attempt(t: float, body: Body = body, faces: list[int] = faces,
                        walls: dict[int, float] = walls) -> Body:  # fmt: skip
                if fields.grow != "both":
                    return shell(body, faces, t, walls, fields.grow == "out", ctx.step)
                half = {i: w / 2 for i, w in walls.items()}
                inner = shell(body, faces, t / 2, half, False, ctx.step)
                outer = shell(body, faces, t / 2, half, True, face_name(ctx.step, "out"))
                return combine("add", inner, [outer], "the shell")

            advice, offers = put_earlier(ctx, body.names, ("fillet", "chamfer", "draft"))
            outcome.bodies[id] = fitted(
                attempt, ctx.value("wall"), "wall", "a wall of", advice=advice, offers=offers
            )
        return outcome
