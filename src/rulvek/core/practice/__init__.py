"""Practice: jobs with planted faults, what is asked about them, and how answers are marked. Never evidence."""
