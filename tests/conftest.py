"""What property tests draw from: always the same examples where a change is judged, others where more is sought."""

import os

from hypothesis import settings

# Timings are never asserted: a busy machine takes what it takes. A change is judged by the examples it
# can be judged by again; `make fuzz` looks further.
settings.register_profile("settled", deadline=None, derandomize=True)
settings.register_profile("fuzz", deadline=None, print_blob=True)
settings.load_profile("fuzz" if os.environ.get("VIREO_FUZZ") else "settled")
