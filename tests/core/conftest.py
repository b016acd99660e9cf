"""What fits is looked for to its end, however busy the machine is."""

import pytest

from vireo.core.part import fitting


@pytest.fixture(autouse=True, scope="session")
def patience():
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(fitting, "PATIENCE", 600.0)
        yield
