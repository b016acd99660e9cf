"""What is grown from a sketch: chosen regions, or a thin wall along its curves."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from vireo.core.curves import Curve2
from vireo.core.declared import fields as f
from vireo.core.kernel.profile import Outline, outline_of
from vireo.core.kernel.surfaces import Chain, chains_of
from vireo.core.kernel.wall import wall
from vireo.core.part.context import Context
from vireo.core.part.fitting import fitted
from vireo.core.part.trouble import LostPick, StepTrouble
from vireo.core.quantity import Formula
from vireo.core.trouble import Offer

_WALL = {"profile": ["wall"]}
_CURVES = {"profile": ["wall", "surface"]}
#: A surface stands by itself.
SOLID = {"profile": ["!surface"]}


class ProfileFields(f.StepFields):
    """Fields shared by the steps that grow a profile."""

    sketch: str = f.sketch()
    profile: Literal["regions", "wall", "surface"] = f.choice(
        "Profile", "regions", {"regions": "Regions", "wall": "Wall", "surface": "Surface"}
    )
    regions: tuple[f.RegionPick, ...] = f.regions("sketch", when={"profile": ["regions"]})
    chains: tuple[str, ...] = f.curves("sketch", "Along", when=_CURVES)
    thickness: Formula = f.length("Thickness", "2 mm", above=0, when=_WALL, key="t")
    side: Literal["middle", "left", "right"] = f.choice(
        "Side", "middle", {"middle": "Middle", "left": "Left / inside", "right": "Right / outside"},
        when=_WALL,
    )  # fmt: skip
    ends: Literal["square", "round"] = f.choice(
        "Ends", "square", {"square": "Square", "round": "Round"}, when=_WALL
    )


def curves_of(
    sketch: str, chosen: Sequence[str], ctx: Context, what: str
) -> list[tuple[str, Curve2]]:
    """The chosen curves of a sketch, or all. Raises LostPick for one that is gone, StepTrouble
    when there is none."""
    data = ctx.sketch(sketch)
    curves = dict(data.curves)
    gone = [c for c in chosen if c not in curves]
    if gone:
        rest = [c for c in chosen if c in curves]
        raise LostPick(
            f"the curve {gone[0]} the {what} runs along is no longer in the sketch",
            [f"step:{ctx.step}", f"step:{sketch}"],
            [Offer(label="Leave it out", fields={"chains": rest})] if rest else [],
        )
    wanted = [(c, curves[c]) for c in chosen] or list(data.curves)
    if not wanted:
        raise StepTrouble(f"the sketch {data.name} has no curves for a {what}", [f"step:{sketch}"])
    return wanted


def surface_chains(sketch: str, chosen: Sequence[str], ctx: Context) -> list[Chain]:
    """The open and closed chains a surface is grown from, where their sketch lies."""
    frame = ctx.sketch(sketch).frame
    return chains_of(curves_of(sketch, chosen, ctx, "surface"), frame)


def profile_of(fields: ProfileFields, ctx: Context) -> Outline:
    """The outline a step grows. Raises StepTrouble or LostPick."""
    if fields.profile == "regions":
        chosen = ctx.regions(fields.sketch, fields.regions, "regions")
        return outline_of(ctx.arrangement(fields.sketch), chosen)
    wanted = curves_of(fields.sketch, fields.chains, ctx, "wall")
    shares = {"middle": (0.5, 0.5), "left": (1.0, 0.0), "right": (0.0, 1.0)}
    left, right = shares[fields.side]
    return fitted(
        lambda t: wall(wanted, left * t, right * t, fields.ends == "round"),
        ctx.value("thickness"), "thickness", "a wall of",
    )  # fmt: skip
