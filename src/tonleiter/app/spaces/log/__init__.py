"""The Log space: what was reported, changed and set, and what it says together."""
