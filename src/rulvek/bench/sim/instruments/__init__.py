"""Simulated instruments: they speak SCPI on loopback sockets, with the simulated bench behind them."""
