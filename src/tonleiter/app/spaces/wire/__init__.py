"""The Wire space: from the solved chain to a plug that is soldered right."""
