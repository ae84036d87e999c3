"""One level of a run: what every channel reads at it, steady or in bursts, and where levels lie in a long record."""
