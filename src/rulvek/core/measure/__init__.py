"""What is read from a waveform: tones to send, captures that come back, power, distortion, the searches."""
