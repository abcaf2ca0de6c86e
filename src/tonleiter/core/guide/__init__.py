"""Guides: controls, meters, aims and steps, each declared once; a scene is all that is seen."""
