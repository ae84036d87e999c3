"""How many examples a property is tried on: few each time, many times as many in ``make test-long``."""

import os
from typing import Any

from hypothesis import settings

TIMES = int(os.environ.get("RULVEK_EXAMPLES", "1"))


def examples(count: int, **more: Any) -> settings:
    """Settings of a property that is tried on so many examples, or that many times ``RULVEK_EXAMPLES``."""
    return settings(max_examples=count * TIMES, **more)
