"""What goes with what: every microphone and source against every input."""
