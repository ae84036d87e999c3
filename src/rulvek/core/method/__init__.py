"""The method profile: every number of the procedure that a lab may set, and where each comes from."""
