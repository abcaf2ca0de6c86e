"""The Ladder: levels of a chain from voice to radio, inspector, response, findings."""
