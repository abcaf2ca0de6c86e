"""The bring-up of a build: what readings should show, and what would explain others."""
