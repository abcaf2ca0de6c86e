"""Sound as arrays: files, levels, voices, noise, and a voice through a solved chain."""
