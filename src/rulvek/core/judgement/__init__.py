"""What the figures mean: the method they were taken by, the claims, the uncertainty, the verdict."""
