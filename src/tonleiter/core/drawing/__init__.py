"""Drawings that one can solder from, made from the very circuit that is solved."""
