"""What is kept of the work, frozen: models, units, campaigns, runs, attempts, readings; and which of them stand."""
