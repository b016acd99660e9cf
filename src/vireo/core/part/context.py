"""What a step may read while it builds.

Every read is recorded with the content key of what was read: that is how a change re-runs
only the steps that depend on it, whatever their position.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import partial
from typing import Any

from vireo.core.curves import inside
from vireo.core.declared.fields import RegionPick
from vireo.core.geometry import Frame, plane_frame
from vireo.core.kernel.forms.kind import FORMS, form_of
from vireo.core.kernel.outlines import bounded_by
from vireo.core.kernel.profile import Arrangement, Region, arrange
from vireo.core.kernel.shape import Body
from vireo.core.kernel.transform import Move
from vireo.core.naming import Pick, Topology, make_pick, ranked, resolve
from vireo.core.naming.grammar import behind, maker_of, makers_of, marks_of
from vireo.core.part.datum import Datum, Dressed, Rule
from vireo.core.part.products.bodies import BODIES
from vireo.core.part.products.datum import DATUMS
from vireo.core.part.products.deeds import DEEDS, Deed
from vireo.core.part.products.dress import DRESSES
from vireo.core.part.products.group import SETS
from vireo.core.part.products.outcome import Outcome
from vireo.core.part.products.sheets import SHEETS
from vireo.core.part.products.sketch import SKETCHES
from vireo.core.part.sketchdata import SketchData
from vireo.core.part.state import Again, Held, State, topology_by_key
from vireo.core.part.trouble import LostPick, StepTrouble
from vireo.core.sheet.body import SheetBody
from vireo.core.sheet.joining import carried_sheet
from vireo.core.trouble import Candidate, Lost, Offer

__all__ = ["Context", "LostPick", "Outcome", "StepTrouble"]


def _itself(body: Body) -> Body:
    return body


class Context:
    """Handed to `StepKind.build`. Values are in mm and rad."""

    def __init__(
        self,
        step: str,
        state: State,
        values: Mapping[str, float],
        blob: Callable[[str], bytes] | None = None,
        names: Mapping[str, Any] | None = None,
        forms: Sequence[str] = ("solid",),
    ) -> None:
        self.step = step
        #: The forms of body the step works on.
        self.forms = tuple(forms)
        self._state = state
        self._values = values
        self._blob = blob
        self.names = names or {}
        self.reads: dict[str, str | None] = {}
        #: Ids of the regions the step takes, as its sketch is parted now.
        self.counted: tuple[str, ...] = ()

    def has(self, field: str) -> bool:
        """Whether a quantity field is in use."""
        return field in self._values

    def value(self, field: str) -> float:
        return self._values[field]

    def _read(self, ref: str) -> None:
        self.reads[ref] = self._state.key_of(ref)

    def all_ids(self) -> list[str]:
        """Ids of all bodies, of whatever form."""
        self._read("bodies:")
        return list(self._state.bodies)

    def body_ids(self) -> list[str]:
        """Ids of the bodies of the forms the step works on, but for those that stand aside."""
        return [
            id
            for id in self.all_ids()
            if self._state.bodies[id].form in self.forms and not self.stands_aside(id)
        ]

    def stands_aside(self, id: str) -> bool:
        """Whether a body is only there to refer to: worked on by steps it is chosen for."""
        return self._state.of(DRESSES).get(id, Dressed()).aside

    def chosen(self, ids: Sequence[str], to: str) -> list[str]:
        """The bodies chosen, or all. Raises StepTrouble when there is none `to` ..."""
        found = list(ids) or self.body_ids()
        if not found:
            what = " or ".join(self.forms) if self.all_ids() else "body"
            raise StepTrouble(f"there is no {what} to {to} yet", [f"step:{self.step}"])
        return found

    def seen(self, id: str) -> Body:
        """A body of any form, to be looked at."""
        self._read(f"body:{id}")
        if id not in self._state.bodies:
            raise StepTrouble(f"{_missing(self._state, id, 'body')}")
        return self._state.bodies[id].load()

    def body(self, id: str) -> Body:
        """A body to be worked on. Raises StepTrouble for one of a form the step does not take."""
        found = self.seen(id)
        form = FORMS[self._state.bodies[id].form]
        if form.word not in self.forms:
            hint = f": {form.hint}" if form.hint else ""
            raise StepTrouble(
                f"{self.body_title(id)} is {form.article}, and this step works on "
                f"{' or '.join(FORMS[w].article for w in self.forms)}{hint}",
                [f"step:{self.step}"],
            )
        return found

    def sheet(self, id: str) -> SheetBody:
        """The sheet a body is. Raises StepTrouble for one that is none, or no longer."""
        self._read(f"sheet:{id}")
        kept = SHEETS.current(self._state, id)
        if kept is not None:
            return kept.load()
        if id not in self._state.bodies:
            raise StepTrouble(_missing(self._state, id, "body"), [f"step:{self.step}"])
        was = id in self._state.of(SHEETS)
        raise StepTrouble(
            f"{self.body_title(id)} is no longer a sheet: a step before this one changed its solid by other means"
            if was
            else f"{self.body_title(id)} is no sheet: this step works on what Plate makes",
            [f"step:{self.step}"],
        )

    def sheet_carried(self, id: str, move: Move, mark: str = "") -> SheetBody | None:
        """The sheet a body is, carried along with it; None where it is none, or is scaled."""
        self._read(f"sheet:{id}")
        kept = SHEETS.current(self._state, id)
        return carried_sheet(kept.load(), move, mark) if kept is not None else None

    def sheet_ids(self) -> list[str]:
        """Ids of all bodies that are sheets."""
        found = self.all_ids()
        for id in found:
            self._read(f"sheet:{id}")
        return [id for id in found if SHEETS.current(self._state, id) is not None]

    def weight(self, id: str) -> float:
        """Mass of a body in g; zero without a material."""
        self._read(f"weight:{id}")
        return self._state.weigh(id)

    def topology(self, id: str) -> Topology:
        body = self.seen(id)
        return topology_by_key(self._state.bodies[id].key, body)

    def deeds(self, id: str) -> list[Deed]:
        """What an earlier step did with shapes of its own. Raises StepTrouble when it failed."""
        self._read(f"deeds:{id}")
        if id in self._state.failed:
            raise StepTrouble(_missing(self._state, id, "step"), [f"step:{id}"])
        return [d.load() for d in self._state.of(DEEDS).get(id, [])]

    def again(self, id: str) -> Again | None:
        """How an earlier step that treats picks was built; None for one that cannot be redone."""
        self._read(f"again:{id}")
        found = self._state.again.get(id)
        return found if found is not None and found.works_on else None

    def survivor(self, body: str) -> str:
        """The body another has become part of, itself when it stands."""
        while body not in self._state.bodies:
            self._read(f"absorbed:{body}")
            if body not in self._state.of(BODIES):
                break
            body = self._state.of(BODIES)[body]
        return body

    def working(self, bodies: Mapping[str, Body]) -> State:
        """The state as it stands, with some bodies as they are being worked on now."""
        state = self._state.copy()
        for id, body in bodies.items():
            told = {"form": form_of(body).word}
            key = f"working-{secrets.token_hex(8)}"
            state.bodies[id] = Held(key, partial(_itself, body), told)
        return state

    def title(self, id: str) -> str:
        """What an earlier step is called."""
        return self._state.titles.get(id, ("", id))[1]

    def body_title(self, id: str) -> str:
        """What a body is called after the step it came from."""
        return self.title(maker_of(id))

    def varied(self, id: str, values: Mapping[str, float]) -> list[Deed]:
        """What an earlier step would have done with other numbers (mm, rad)."""
        self.deeds(id)
        self._read(f"again:{id}")
        return self._state.again[id].build({**self._state.again[id].values, **values}).of(DEEDS)

    def values_of(self, id: str) -> Mapping[str, float]:
        """The numbers an earlier step was built with."""
        self._read(f"again:{id}")
        return self._state.again[id].values if id in self._state.again else {}

    def dimension_of(self, id: str, field: str) -> str:
        return self._state.again[id].dimensions[field]

    def steps_of(self, names: Iterable[str], kinds: Sequence[str]) -> list[tuple[str, str]]:
        """Ids and names of the earlier steps of some kinds that made faces so named."""
        made = makers_of(names)
        titles = self._state.titles
        return [(id, titles[id][1]) for id in titles if id in made and titles[id][0] in kinds]

    def datum(self, id: str) -> Datum:
        self._read(f"datum:{id}")
        if id not in self._state.of(DATUMS):
            raise StepTrouble(_missing(self._state, id, "reference"), [f"step:{id}"])
        return self._state.of(DATUMS)[id]

    def rule(self, id: str) -> Rule:
        """What belongs to a set. Raises LostPick when it is gone."""
        self._read(f"set:{id}")
        if id not in self._state.of(SETS):
            raise LostPick(_missing(self._state, id, "set"), [f"step:{id}"])
        return self._state.of(SETS)[id]

    def sketch(self, id: str) -> SketchData:
        self._read(f"sketch:{id}")
        if id not in self._state.of(SKETCHES):
            raise StepTrouble(_missing(self._state, id, "sketch"), [f"step:{id}"])
        return self._state.of(SKETCHES)[id]

    def arrangement(self, id: str) -> Arrangement:
        return arrange(self.sketch(id).curves)

    def blob(self, id: str) -> bytes:
        if self._blob is None:
            raise StepTrouble("there is no stored file to read here")
        return self._blob(id)

    def others(self, document: str) -> dict[str, tuple[Body, Dressed]]:
        """The bodies of another part as it stands, and how they are dressed there. Raises
        StepTrouble when there are none."""
        self._read(f"other:{document}")
        found = self._state.other(document) if self._state.other else "it cannot be reached here"
        if isinstance(found, str):
            raise StepTrouble(f"nothing can be taken from that part: {found}")
        return {id: (other.held.load(), other.dress) for id, other in found.items()}

    def find(self, pick: Pick, field: str, picks: Sequence[Pick] = ()) -> tuple[int, Topology]:
        """Index of what a pick stands for. Raises LostPick with the best match proposed.

        `picks` are all of a field that holds a list: what is offered is put among them. A field
        inside another (``plane.face``) holds one; where neither is so nothing is offered, the
        candidates remain.
        """
        if pick.kind == "set":
            raise LostPick("a set cannot be used here: one thing is wanted", [f"field:{field}"])
        if pick.body not in self._state.bodies:
            self._read(f"body:{pick.body}")
            missing = _missing(self._state, pick.body, "body")
            raise LostPick(f"the picked {pick.kind} is lost: {missing}", [f"step:{self.step}"])
        topology = self.topology(pick.body)
        found = resolve(pick, topology)
        if found.index is not None:
            return found.index, topology
        offers = []
        text = f"the picked {pick.kind} ({pick.witness.kind}) is no longer there"
        if found.proposal is not None and found.score > 0.3 and (picks or "." in field):
            new = make_pick(topology, pick.body, pick.kind, found.proposal)
            put = [new if p == pick else p for p in picks] if picks else new
            dumped = (
                [p.model_dump(mode="json") for p in put]
                if isinstance(put, list)
                else put.model_dump(mode="json")
            )
            offers.append(
                Offer(label=f"Use the nearest {pick.kind} ({found.score:.0%} alike)",
                      fields={field: dumped})
            )  # fmt: skip
        if len(picks) > 1:
            rest = [p.model_dump(mode="json") for p in picks if p != pick]
            offers.append(Offer(label=f"Drop this {pick.kind}", fields={field: rest}))
        x, y, z = pick.witness.at
        where = [f"step:{self.step}", f"point:{x:.3f},{y:.3f},{z:.3f}"]
        trouble = LostPick(f"{text}; it was near ({x:.1f}, {y:.1f}, {z:.1f})", where, offers)
        trouble.lost = Lost(
            field=field,
            pick=pick.model_dump(mode="json"),
            candidates=[
                Candidate(
                    pick=make_pick(topology, pick.body, pick.kind, i).model_dump(mode="json"),
                    score=score,
                )
                for i, score in ranked(pick, topology, 5)
                if score > max(0.2, 0.5 * found.score)
            ],
        )
        raise trouble

    def regions(self, sketch: str, chosen: Sequence[RegionPick], field: str) -> list[Region]:
        """The chosen regions, or all that are not holes. Raises LostPick for one that is gone."""
        found = self.arrangement(sketch)
        if not found.regions:
            raise StepTrouble(
                f"the sketch {self.sketch(sketch).name} closes no region: its curves must meet "
                "end to end around an area",
                [f"step:{sketch}"],
            )
        if not chosen:
            plain = [r for r in found.regions if r.depth % 2 == 0]
            self.counted = tuple(r.id for r in plain)
            return plain
        regions = {
            r.id: r for pick in chosen for r in self._taken(sketch, found, pick, chosen, field)
        }
        self.counted = tuple(regions)
        return list(regions.values())

    def _taken(
        self, sketch: str, found: Arrangement, pick: RegionPick, chosen: Sequence[RegionPick],
        field: str,
    ) -> list[Region]:  # fmt: skip
        """What a picked region is made up of now. Raises LostPick."""
        region = found.region(pick.id)
        if region is not None:
            return [region]
        data = self.sketch(sketch)
        # What was drawn inside it since parts it, but is no part of what was picked.
        parts = bounded_by(data.curves, pick.curves, pick.id)
        if parts is not None:
            return parts
        near = [
            r for r in found.regions
            if inside(pick.at, r.outer) and not any(inside(pick.at, h) for h in r.holes)
        ]  # fmt: skip
        offers = []
        if near:
            new = RegionPick(id=near[0].id, at=near[0].at, area=near[0].area, curves=near[0].curves)
            put = [new if p == pick else p for p in chosen]
            offers = [Offer(label="Use the region that lies there now",
                            fields={field: [p.model_dump(mode="json") for p in put]})]  # fmt: skip
        here = dict(data.curves)
        gone = [c for c in pick.curves if c not in here]
        bounds = f": {', '.join(gone)} that bounded it went" if gone else ""
        raise LostPick(
            f"a picked region is no longer bounded by the same curves{bounds}",
            [f"step:{self.step}", f"step:{sketch}"],
            offers,
        )

    def frame_of_face(self, pick: Pick, field: str, picks: Sequence[Pick] = ()) -> Frame:
        """The frame of a planar face. Raises StepTrouble for any other face."""
        index, topology = self.find(pick, field, picks)
        face = topology.faces[index]
        if face.kind != "plane" or face.direction is None:
            raise StepTrouble(f"a sketch needs a planar face; this one is a {face.kind}")
        return plane_frame(face.origin, face.direction)


def _missing(state: State, id: str, what: str) -> str:
    if (own := behind(id)) in state.failed:
        return f"it needs {state.failed[own]}, which did not build"
    maker, *rest = marks_of(id)
    title = state.titles.get(maker, ("", ""))[1] or state.failed.get(maker, "")
    if not title:
        return f"its {what} is not there at this place in the build list"
    number = f", number {rest[0]}" if rest and rest[0].isdigit() else ""
    return f"its {what} from {title}{number} is not there at this place in the build list"
