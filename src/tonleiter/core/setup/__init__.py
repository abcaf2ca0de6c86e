"""Modes of a transmitter as scenes: single sideband, FM voice, packet, AM, weak-signal data."""
