"""A place to practise: jobs with planted faults, exams, marked sheets. Nothing of it is evidence."""

from rulvek.services.practice.jobs import Practice

__all__ = ["Practice"]
