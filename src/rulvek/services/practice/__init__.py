"""A place to practise: jobs with planted faults, exams, marked sheets. Nothing of it is evidence."""

from rulvek.services.practice.desk import Practice

__all__ = ["Practice"]
