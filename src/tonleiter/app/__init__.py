"""The window: Qt only. Views render a station and its solution and hold no second copy."""
