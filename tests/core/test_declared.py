"""What steps declare and what the screen has for it."""

from pathlib import Path

import pytest

from vireo.core.declared.step import all_kinds, describe

WEB = Path(__file__).parents[2] / "web" / "src"


@pytest.mark.parametrize("kind", [k.kind for k in all_kinds()])
def test_every_field_a_step_shows_has_a_component(kind):
    """A type of field without one would leave a number nobody can set."""
    (told,) = (describe(k) for k in all_kinds() if k.kind == kind)
    shown = {f["type"] for f in told["fields"] if f["label"]}
    drawn = {p.stem for p in (WEB / "part" / "fields").glob("*.vue")}
    assert shown <= drawn
