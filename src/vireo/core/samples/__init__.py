"""Made-up parts: one or more ways to use every kind of step, for help and tests."""
