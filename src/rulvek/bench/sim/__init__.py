"""The simulated bench: waveforms from an amplifier model on a supply behind a cable. It answers no figures."""
