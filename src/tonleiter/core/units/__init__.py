"""Quantities as people write them, decibel references, preferred values."""
