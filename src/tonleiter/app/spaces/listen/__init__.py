"""The Listen space: two recordings measured, held against each other, tried blind."""
