"""What is wrong, or easily overlooked, in the wiring of a build: a module for each kind of rule."""
