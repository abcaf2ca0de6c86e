"""Guided setting: what to turn, to where, why, and what it means if nothing moves."""
