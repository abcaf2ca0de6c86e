"""The manual page of the commands, out of the parser: it knows what there is."""

from __future__ import annotations

import argparse

from tonleiter import __version__


def manual_page(parser: argparse.ArgumentParser) -> str:
    """The page as roff source."""
    lines = [
        f'.TH TONLEITER 1 "" "Tonleiter {__version__}" "User Commands"',
        ".SH NAME",
        "tonleiter \\- levels, bias, wiring and judgement for the audio chain of a radio station",
        ".SH SYNOPSIS",
        ".B tonleiter",
        "[\\fISTATION\\fR | \\fIFILE\\fR]",
        ".br",
        ".B tonleiter",
        "\\fICOMMAND\\fR [\\fIOPTIONS\\fR]",
        ".SH DESCRIPTION",
        "Without a command a window opens: on the station that is named, on the one opened last,"
        " or on the start page. With one a table is printed, or JSON.",
        ".SH OPTIONS",
    ]
    for action in parser._actions:
        if action.option_strings and action.help:
            lines += [".TP", f".B {_plain(', '.join(action.option_strings))}", _plain(action.help)]
    lines.append(".SH COMMANDS")
    for name, says in commands_of(parser):
        lines += [".TP", f".B {_plain(name)}", _plain(says)]
    lines += [
        ".PP",
        "Each command says its own options with \\-\\-help.",
        ".SH EXIT STATUS",
        "0 when it ran, 1 when a stop stands and \\-\\-strict was given, 2 on bad input, with one"
        " line that says what and where.",
        ".SH FILES",
        ".TP",
        ".I name.station/",
        "A station: a folder with station.json, records, a log and recordings.",
        ".TP",
        ".I ~/.local/share/tonleiter",
        "The copy of the demo, and stations that have no place yet.",
    ]
    return "\n".join(lines) + "\n"


def commands_of(parser: argparse.ArgumentParser) -> list[tuple[str, str]]:
    """Names and words of the commands, in their order."""
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            return [(a.dest, a.help or "") for a in action._choices_actions]
    return []


def _plain(text: str) -> str:
    return text.replace("\\", "\\\\").replace("-", "\\-")
