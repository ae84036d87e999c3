"""The job's rules and arithmetic: numpy and scipy only, SI units, float64, no I/O and no clock."""
