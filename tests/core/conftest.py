"""What fits is looked for to its end also on a busy machine."""

import pytest

from vireo.core.part import fitting


@pytest.fixture(autouse=True, scope="session")
def patience():
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(fitting, "PATIENCE", 30.0)
        yield
