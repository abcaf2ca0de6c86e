"""Blocks that signals go through, whoever needs them: filters, detectors, spectrum."""
