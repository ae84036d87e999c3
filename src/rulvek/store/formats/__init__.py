"""File formats from outside: WAV and CSV recordings."""
