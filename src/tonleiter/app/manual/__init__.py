"""The manual in the window, hints for a first use, terms that can be pressed."""
