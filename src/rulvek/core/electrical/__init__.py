"""The supply, the current and the loads around an amplifier."""
