"""An audio interface as source and recorder in one clock, through PortAudio."""
