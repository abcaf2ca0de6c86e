"""The page that one starts at: doors, and the stations opened last."""
