"""The core from the command line, without a window: a file for each command."""

from tonleiter.cli.main import main

__all__ = ["main"]
