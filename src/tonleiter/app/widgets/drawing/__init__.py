"""Drawings that one can solder from: painted, shown, written to files."""
