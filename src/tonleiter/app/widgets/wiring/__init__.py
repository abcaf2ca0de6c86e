"""Painting a build: faces of connectors, the score of a part, sheets to take to the iron."""
