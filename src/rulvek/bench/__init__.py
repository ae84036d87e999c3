"""The bench: what a run needs of instruments, the simulated stand-ins, and the conductor that drives a run."""
