"""A place to practise: jobs with planted faults, exams, marked sheets. Nothing of it is evidence."""

from rulvek.services.practice.jobs import Practice, sheet_of

__all__ = ["Practice", "sheet_of"]
