"""What leaves the house: sheets of the records in the open."""
