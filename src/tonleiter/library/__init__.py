"""Generic entries, one file a family, in the station's own gear model."""
