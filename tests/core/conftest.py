"""What fits is looked for to its end also on a busy machine; gallery parts are built once."""

import pytest

from tests.core import gallery
from vireo.core.part import fitting
from vireo.core.part.cache import Cache


@pytest.fixture(autouse=True, scope="session")
def patience():
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(fitting, "PATIENCE", 30.0)
        yield


@pytest.fixture(autouse=True, scope="session")
def keeping():
    gallery.kept.append(Cache(bodies=3000))
    yield
    gallery.kept.clear()
