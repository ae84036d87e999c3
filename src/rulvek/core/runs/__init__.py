"""The ways of driving a unit: modes and ends, what a procedure asks for, the searches, a recording taken as a run."""
