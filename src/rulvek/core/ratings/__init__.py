"""From measured units to a figure that may be printed: what a sample says of a whole production."""
