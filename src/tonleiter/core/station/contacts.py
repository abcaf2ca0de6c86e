"""Where a wire is soldered: the contact of a connector, or the pin of a part.

It is text as a net list prints it, and knows its two halves: nobody takes the text apart again.
"""

from __future__ import annotations

from collections.abc import Iterable


class At(str):
    """A contact or pin: ``thing`` is a connector (``box.connector``) or a part, ``label`` its own.

    Equal to the text ``thing.label``, as records and files hold it.
    """

    __slots__ = ("label", "thing")
    thing: str
    label: str

    def __new__(cls, thing: str, label: str) -> At:
        """Of a thing the contact with this label."""
        made = super().__new__(cls, f"{thing}.{label}")
        made.thing, made.label = thing, label
        return made


def by_thing(contacts: Iterable[At]) -> dict[str, list[At]]:
    """Contacts by the connector or part that they are of, in their order."""
    found: dict[str, list[At]] = {}
    for contact in contacts:
        found.setdefault(contact.thing, []).append(contact)
    return found
