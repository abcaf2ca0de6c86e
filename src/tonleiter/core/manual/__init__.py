"""The manual: pages of words and of figures that are computed when it is made."""
