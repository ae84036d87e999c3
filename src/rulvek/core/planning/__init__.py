"""Which runs to make, in which order, and why."""
