"""Commands on named views and on readings that stay."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from vireo.core.documents.commands.base import Command, Model, RemoveItem, command, update
from vireo.core.documents.views import MeasureNote, SavedView
from vireo.core.trouble import NotAllowed


@command
class KeepView(Command):
    """Keeps a view under its name; one of that name is replaced."""

    do: Literal["keep_view"] = "keep_view"
    on: ClassVar[tuple[str, ...]] = ("part", "assembly")
    view: SavedView

    def apply(self, document: Any) -> Model:
        kept = [v for v in document.views if v.name != self.view.name]
        done: Model = update(document, views=(*kept, self.view))
        return done

    def label(self) -> str:
        return f"keep view {self.view.name}"


@command
class RemoveView(Command):
    do: Literal["remove_view"] = "remove_view"
    on: ClassVar[tuple[str, ...]] = ("part", "assembly")
    name: str

    def apply(self, document: Any) -> Model:
        kept = tuple(v for v in document.views if v.name != self.name)
        if len(kept) == len(document.views):
            raise NotAllowed(f"there is no view called {self.name}")
        done: Model = update(document, views=kept)
        return done

    def label(self) -> str:
        return f"remove view {self.name}"


@command
class AddNote(Command):
    """Keeps a reading in the picture; it follows the model."""

    do: Literal["add_note"] = "add_note"
    on: ClassVar[tuple[str, ...]] = ("part", "assembly")
    picks: tuple[dict[str, Any], ...]
    key: str
    words: str

    def apply(self, document: Any) -> Model:
        number = document.last_id + 1
        note = MeasureNote(id=f"n{number}", picks=self.picks, key=self.key, words=self.words)
        done: Model = update(document, notes=(*document.notes, note), last_id=number)
        return done


@command
class RemoveNote(RemoveItem):
    on: ClassVar[tuple[str, ...]] = ("part", "assembly")
    group, what = "notes", "note"
    do: Literal["remove_note"] = "remove_note"
