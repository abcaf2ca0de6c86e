"""The document: its model, reading and writing it safely, migration, edits, undo."""
