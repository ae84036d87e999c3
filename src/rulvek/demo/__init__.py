"""The demo scenario: an invented maker, its line and its people; all evidence comes from the simulated bench."""
