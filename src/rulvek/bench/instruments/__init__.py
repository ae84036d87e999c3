"""Instruments by description: what they understand is data, and one guard speaks to all of them."""
