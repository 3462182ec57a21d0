"""All tests; ``python -m tests.run`` runs them."""

import os

# Two test processes side by side keep two cores busy: a worker more would only wait.
os.environ.setdefault("VEXEL_WORKERS", "1")
