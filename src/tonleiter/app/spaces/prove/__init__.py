"""The Prove space: the bring-up of a build, reading by reading."""
