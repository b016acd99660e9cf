"""Commands on motions over time that are kept by name."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from vireo.core.documents.base import Document
from vireo.core.documents.commands.assembly import AssemblyCommand
from vireo.core.documents.commands.base import RemoveItem, command, edited, place
from vireo.core.documents.commands.positions import kept_anew
from vireo.core.documents.kinds.assembly import Assembly, Driver, Run, RunLoad, Traced, Watch
from vireo.core.naming.grammar import original_of
from vireo.core.quantity import Formula
from vireo.core.trouble import BadInput

_Way = Literal["X", "Y", "Z", "-X", "-Y", "-Z", ""]


@command
class KeepRun(AssemblyCommand):
    """Keep a motion over time under a name; the same name again keeps it anew."""

    do: Literal["keep_run"] = "keep_run"
    name: str
    duration: Formula = "2 s"
    frames: int = Field(default=120, ge=2, le=2000)
    drivers: list[Driver] = Field(default_factory=list, max_length=50)
    loads: list[RunLoad] = Field(default_factory=list, max_length=100)
    weighed: bool = True
    gravity: _Way = "-Z"
    clashes: bool = True
    watched: list[Watch] = Field(default_factory=list, max_length=50)
    traced: list[Traced] = Field(default_factory=list, max_length=50)

    def apply(self, document: Assembly) -> Document:
        name = self.name.strip()
        if not name:
            raise BadInput("a run needs a name")
        known = next((r for r in document.runs if r.name == name), None)
        made = Run(
            id=known.id if known else f"m{document.last_id + 1}", name=name,
            duration=self.duration, frames=self.frames, drivers=tuple(self.drivers),
            loads=tuple(self.loads), weighed=self.weighed, gravity=self.gravity,
            clashes=self.clashes, watched=tuple(self.watched), traced=tuple(self.traced),
        )  # fmt: skip
        _there(document, made)
        return kept_anew(document, "runs", made)

    def label(self) -> str:
        return f"keep run {self.name}"


@command
class EditRun(AssemblyCommand):
    do: Literal["edit_run"] = "edit_run"
    id: str
    name: str | None = Field(default=None, min_length=1, max_length=80)
    duration: Formula | None = None
    frames: int | None = Field(default=None, ge=2, le=2000)
    drivers: list[Driver] | None = Field(default=None, max_length=50)
    loads: list[RunLoad] | None = Field(default=None, max_length=100)
    weighed: bool | None = None
    gravity: _Way | None = None
    clashes: bool | None = None
    watched: list[Watch] | None = Field(default=None, max_length=50)
    traced: list[Traced] | None = Field(default=None, max_length=50)

    def apply(self, document: Assembly) -> Document:
        given = {k: tuple(v) if isinstance(v, list) else v for k, v in self.given("id").items()}
        made = edited(document, "runs", self.id, "run", given)
        assert isinstance(made, Assembly)
        run = made.run(self.id)
        assert run is not None
        if sum(r.name == run.name for r in made.runs) > 1:
            raise BadInput(f"there is a run called {run.name} already")
        _there(made, run)
        return made

    def label(self) -> str:
        return "edit run"


def _there(document: Assembly, run: Run) -> None:
    """Raises BadInput for joints and components that are not in the assembly."""
    for driver in run.drivers:
        # A joint of an assembly inside goes by a path.
        if "/" not in driver.joint:
            place(document.joints, driver.joint, "joint")
    for watch in run.watched:
        if watch.a == watch.b:
            raise BadInput("a gap is between two components")
        for path in (watch.a, watch.b):
            place(document.components, original_of(path.split("/")[0]), "component")


@command
class RemoveRun(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("assembly",)
    group, what = "runs", "run"
    do: Literal["remove_run"] = "remove_run"
