"""The computer in front of a radio: a loop of levels and keying, out and back, set step by step."""
