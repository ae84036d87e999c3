"""Waveforms and what is read from them: tones to send, captures, power, spectra, distortion."""
