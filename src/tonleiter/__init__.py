"""Tonleiter: the audio chain of an amateur radio station, computed as one circuit."""

__version__ = "0.1.0"
