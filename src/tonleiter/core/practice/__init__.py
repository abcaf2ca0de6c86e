"""Practice: a hidden fault in a station of its own, found by looking, and mended."""
