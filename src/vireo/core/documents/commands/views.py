"""Commands on named views and on readings that stay."""

from __future__ import annotations

from typing import Any, Literal

from vireo.core.documents.base import Document
from vireo.core.documents.commands.base import Command, RemoveItem, command, update
from vireo.core.documents.kind import DocumentKind
from vireo.core.documents.views import MeasureNote, SavedView
from vireo.core.trouble import NotAllowed


class _Viewed(Command):
    @classmethod
    def fits(cls, kind: DocumentKind[Any]) -> bool:
        return kind.viewed


@command
class KeepView(_Viewed):
    """Keeps a view under its name; one of that name is replaced."""

    do: Literal["keep_view"] = "keep_view"
    view: SavedView

    def apply(self, document: Any) -> Document:
        kept = [v for v in document.views if v.name != self.view.name]
        done: Document = update(document, views=(*kept, self.view))
        return done

    def label(self) -> str:
        return f"keep view {self.view.name}"


@command
class RemoveView(_Viewed):
    do: Literal["remove_view"] = "remove_view"
    name: str

    def apply(self, document: Any) -> Document:
        kept = tuple(v for v in document.views if v.name != self.name)
        if len(kept) == len(document.views):
            raise NotAllowed(f"there is no view called {self.name}")
        done: Document = update(document, views=kept)
        return done

    def label(self) -> str:
        return f"remove view {self.name}"


@command
class AddNote(_Viewed):
    """Keeps a reading in the picture; it follows the model."""

    do: Literal["add_note"] = "add_note"
    picks: tuple[dict[str, Any], ...]
    key: str
    words: str

    def apply(self, document: Any) -> Document:
        number = document.last_id + 1
        note = MeasureNote(id=f"n{number}", picks=self.picks, key=self.key, words=self.words)
        done: Document = update(document, notes=(*document.notes, note), last_id=number)
        return done


@command
class RemoveNote(_Viewed, RemoveItem):
    group, what = "notes", "note"
    do: Literal["remove_note"] = "remove_note"
