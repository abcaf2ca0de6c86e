"""Single sideband with a voice, as a scene."""
