"""The log of a station: reports, changes, cards, what they say together, what is next."""
