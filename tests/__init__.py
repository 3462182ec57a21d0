"""All tests; ``python -m tests.run`` runs them."""

import os

from hypothesis import settings

LONG = bool(os.environ.get("VEXEL_TEST_LONG"))
"""More random examples, which find no more on most days: ``make test-long``."""
# No example is timed: the machine may be three times slower.
settings.register_profile("quick", max_examples=40, deadline=None)
settings.register_profile("long", max_examples=400, deadline=None)
settings.load_profile("long" if LONG else "quick")

# Two test processes side by side keep two cores busy: a worker more would only wait.
os.environ.setdefault("VEXEL_WORKERS", "1")
