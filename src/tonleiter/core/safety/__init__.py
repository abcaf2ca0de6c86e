"""What can hurt somebody: each caution once, and by which trait of a thing it is called for."""
