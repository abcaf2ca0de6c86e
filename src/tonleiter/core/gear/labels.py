"""What people read where a file holds the token of a choice.

A token stands in files, commands and code and stays as it is; its label may be worded anew.
"""

from __future__ import annotations

_LABELS = {
    "by-purpose": "what the purpose has",
    "across-it": "across it",
    "into-it": "straight into it",
    "in-case": "in a case",
    "not-polarised": "not polarised",
    "noise-like": "data like noise",
    "fet": "FET",
    "darlington": "a pair (Darlington)",
    "one-transistor": "one transistor",
    "second-rc": "second RC",
    "tone": "one tone",
    "two-tone": "two equal tones",
    "two-core": "two cores",
    "usb-computer": "computer on USB",
    "lead": "over a lead from another box",
    "passive-box": "box without a supply",
    "one-end": "open at one end",
    "foot-switch": "foot switch",
    "push-button": "push button",
    "toggle": "toggle on the panel",
    "microphone": "microphone",
    "vox": "the radio's voice control",
    "serial-transistor": "serial line, transistor",
    "serial-opto": "serial line, opto-coupler",
    "serial-relay": "serial line, relay",
    "interface-vox": "the interface's voice control",
    "microphone-ground": "its ground",
    "cold": "cold leg",
    "bias": "bias or supply",
    "transmit-ground": "transmit ground",
    "up-down": "up and down",
    "both-ends": "both ends",
    "zener": "Zener",
    "star-quad": "star-quad",
    "noise-cancelling": "noise-cancelling",
    "single-ended": "single-ended",
}


def label_of(token: str) -> str:
    """The words for a token: those kept here, or the token with spaces for its hyphens."""
    return _LABELS.get(token, token.replace("-", " "))


def label_of_way(token: str) -> str:
    """The words for a way to transmit: some tokens are those of boxes as well."""
    return "the radio's own button" if token == "radio" else label_of(token)
