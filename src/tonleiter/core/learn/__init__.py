"""What every reading teaches of all figures of a chain."""
