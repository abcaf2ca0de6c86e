"""Sound out of the computer: the real device path behind one small interface."""
