"""The spaces, in the order of the work. A new space is a folder beside these and a line here."""

from __future__ import annotations

from dataclasses import dataclass
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from tonleiter.app.spaces.space import Context, Space


@dataclass(frozen=True)
class Entry:
    """A space: its name, its key, its title, and the class that makes it.

    ``made_by`` is module and class below ``tonleiter.app.spaces``: a space is imported when it is
    first wanted. A space that is made ``soon`` is made behind the first one, because its badge is
    seen from everywhere.
    """

    name: str
    key: str
    title: str
    made_by: str
    soon: bool = False
    takes: tuple[str, ...] = ()
    """Endings of files that it takes when they are dropped on the window."""

    @property
    def module(self) -> str:
        """Where its class is."""
        return f"tonleiter.app.spaces.{self.made_by.partition(':')[0]}"

    def make(self, context: Context) -> Space:
        """A new one."""
        kind = self.made_by.partition(":")[2]
        made: Space = getattr(import_module(self.module), kind)(context)
        return made


# netlist cards, and recordings
CARDS = (".cir", ".net", ".sp")
SOUNDS = (".wav", ".flac", ".ogg")

SPACES: tuple[Entry, ...] = (
    Entry("gear", "1", "Gear", "gear.space:GearSpace", takes=(".json", *CARDS)),
    Entry("match", "2", "Match", "match.space:MatchSpace"),
    Entry("ladder", "3", "Ladder", "ladder.space:LadderSpace", soon=True),
    Entry("wire", "4", "Wire", "wire.space:WireSpace"),
    Entry("prove", "5", "Prove", "prove.space:ProveSpace"),
    Entry("set", "6", "Set", "set.space:SetSpace"),
    Entry("listen", "7", "Listen", "listen.space:ListenSpace", takes=SOUNDS),
    Entry("log", "8", "Log", "log.space:LogSpace"),
    Entry("practise", "9", "Practise", "practise.space:PractiseSpace"),
)
# where a station opens
FIRST = "ladder"
