"""What all gear has in common."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, StringConstraints
from pydantic.fields import FieldInfo
from pydantic_core import PydanticCustomError

from tonleiter.core.circuit.elements import GROUND
from tonleiter.core.gear.figure import Figure, Quantity
from tonleiter.core.gear.grip import Decibels, Grip, Turned, turned_words
from tonleiter.core.gear.net import AIR, Dc, DcNeeds, Port, StageNet, Supply
from tonleiter.core.gear.parts import BOX, Part
from tonleiter.core.gear.signals import SPEECH, Carries, Signal
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.safety.cautions import Hazard
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import OHM, format_short
from tonleiter.core.words import quoted, visible

Role = Literal["microphone", "between", "input"]
LoadTakes = Literal["level", "bass", "nothing"]
DeviceKind = Literal[
    "radio",
    "computer",
    "microphone",
    "interface",
    "mixer",
    "equaliser",
    "amplifier",
    "supply",
    "passive-box",
    "other",
]
Shelf = Literal["Microphones", "Other sources", "Boxes", "Leads and parts", "Inputs"]
Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=60)]


def _shown(text: str) -> str:
    if visible(text) != text:
        raise PydanticCustomError(
            "text", "{text} holds characters that cannot be shown", {"text": quoted(text)}
        )
    return text


def _written(text: str) -> str:
    # a half of a character (a lone surrogate) cannot be written to a file
    if any("\ud800" <= c <= "\udfff" for c in text):
        raise PydanticCustomError("text", "{text} holds half a character", {"text": quoted(text)})
    return text


Name = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=80),
    AfterValidator(_shown),
]
Lines = Annotated[str, StringConstraints(max_length=20_000), AfterValidator(_written)]


@dataclass(frozen=True)
class Surroundings:
    """What a stage finds where it stands; impedances in ohm at 1 kHz, DC in volts and amperes."""

    z_source_ohm: float
    z_load_ohm: float
    z_joint_ohm: float
    capsule_v: float | None = None
    capsule_a: float | None = None
    swing_v: float | None = None

    @property
    def loading_db(self) -> float:
        """What the joint's load takes off an open-circuit level, 0 or less."""
        ratio = self.z_joint_ohm / self.z_source_ohm
        return 20 * math.log10(ratio) if ratio > 0 else -math.inf


# so far into a window is enough for who turns; what is built anew aims for its middle
INSIDE_DB = 4.0


@dataclass(frozen=True)
class Window:
    """Levels in dBu between which a stage works best."""

    low_dbu: float
    high_dbu: float
    aim_dbu: float | None = None

    def outside_db(self, level_dbu: float) -> float:
        """How far a level lies outside it, 0 inside."""
        return max(self.low_dbu - level_dbu, level_dbu - self.high_dbu, 0.0)

    def holds(self, level_dbu: float) -> bool:
        """Whether a level lies in it."""
        return self.low_dbu <= level_dbu <= self.high_dbu

    @property
    def middle_dbu(self) -> float:
        """The level to aim for: the middle, where nothing else is said."""
        return (self.low_dbu + self.high_dbu) / 2 if self.aim_dbu is None else self.aim_dbu

    @property
    def inside_db(self) -> float:
        """How far into it is enough for who turns."""
        return min(INSIDE_DB, (self.high_dbu - self.low_dbu) / 2)


@dataclass(frozen=True)
class Knob:
    """Where a radio's gain control will stand: 0 to 1 of its turn, outside where it does not reach.

    ``marked_to`` is the figure at its end.
    """

    turn: float
    marked_to: float

    @property
    def mark(self) -> str:
        """The figure that it points to."""
        at = self.turn * self.marked_to
        return f"{at:.0f}" if self.marked_to >= 20 else f"{at:.1f}"

    @property
    def reaches(self) -> bool:
        """Whether it gets there at all."""
        return 0.0 <= self.turn <= 1.0


class Gear(BaseModel):
    """A piece of gear. Frozen: an edit makes a new one."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    role: ClassVar[Role]
    noun: ClassVar[str]
    """What the kind is called in sentences."""
    what: ClassVar[str]
    """What it does, in a few words under its name."""
    choices: ClassVar[tuple[str, ...]] = ()
    """Fields one sets or picks, as opposed to facts about the piece."""
    handle: ClassVar[str | None] = None
    """The field that dragging on the ladder moves."""
    grip: ClassVar[Grip | None] = None
    """How a pull or a step moves that field."""
    device: ClassVar[DeviceKind | None] = None
    """The kind of box it is a socket of; None for leads and loose parts, which have no chassis."""
    shelf: ClassVar[Shelf | None] = None
    """The heading it stands under on the shelf; by default its role says."""
    by_hand: ClassVar[bool] = False
    """Whether that field is a control that one turns, as opposed to a part to be changed."""
    bought_whole: ClassVar[bool] = False
    """Whether it is got as one thing, whatever its circuit holds."""
    part_letter: ClassVar[str] = "A"
    """The letter of its name in a drawing, where it is got whole."""
    cut_into_radio: ClassVar[bool] = False
    """Whether building it in is a change inside a radio."""
    lead: ClassVar[bool] = False
    """Whether it is only a lead between two plugs."""
    is_pad: ClassVar[bool] = False
    """Whether it is there to take level off."""
    is_box: ClassVar[bool] = False
    """Whether it is a finished box: an input stage, a gain of its own, an output stage."""
    gain_is_chosen: ClassVar[bool] = False
    """Whether one of its choices sets its gain by itself, so that it can be designed for one."""
    output_turned_by: ClassVar[str | None] = None
    """The field that says which way its output's capacitor stands."""
    input_capacitor: ClassVar[str | None] = None
    """The field of a capacitor at its input that has a plus side and cannot be turned."""
    drives: ClassVar[bool] = False
    """Whether an active stage of its own drives what follows."""
    isolates: ClassVar[bool] = False
    """Whether it parts the grounds on its two sides."""
    hazards: ClassVar[frozenset[Hazard]] = frozenset()
    """What to beware of where it stands, or is opened."""
    transmits: ClassVar[bool] = True
    """For an input: whether what goes in goes on the air, so that something must key it."""
    feeds: ClassVar[Dc | None] = None
    """The DC it is there to supply; a feed of bias has ``supply_v`` and ``resistor_ohm``."""
    load_takes: ClassVar[LoadTakes] = "level"
    """For a source: what too low a load takes; nothing where the load is meant to set its gain."""
    series_farad_field: ClassVar[str | None] = None
    """The field that holds a coupling capacitor in its line."""
    lines_field: ClassVar[str | None] = None
    """The field that holds lines of text, edited as such."""
    word_titles: ClassVar[dict[str, str]] = {}
    """Fields that hold a free word, with their titles."""
    passes_ground: ClassVar[bool] = True
    """Whether its input and output share their cold conductor."""
    acoustic: ClassVar[bool] = True
    """For a source: whether it hears the voice and the room."""

    sections: ClassVar[tuple[str, ...]] = ("About this piece",)
    """Headings under which its facts are shown."""

    id: Id
    name: Name
    notes: Lines = ""
    guest: bool = False
    """Not owned: entered from a data sheet, to see what it would do here."""

    @property
    def kind_id(self) -> str:
        """Its kind, as written in a station."""
        return str(self.__dict__["kind"])

    def takes_balanced(self) -> bool:
        """Whether its input tells a cold leg from the screen; else its plug ties the two."""
        return False

    def dc_needs(self) -> DcNeeds | None:
        """For a source: the DC without which it is silent."""
        return None

    def bias_on_pin_v(self) -> float:
        """For an input: open DC volts on its microphone pin."""
        return 0.0

    def input_for(self) -> Literal["microphone", "line"] | None:
        """The level its input is made for; None where that is not the question."""
        return None

    def phantom_switch(self) -> Literal["on", "off"] | None:
        """How the phantom supply at its input is set; None where there is none."""
        return None

    def drives_both_legs(self) -> bool:
        """Whether half its output EMF stands on its cold leg, and is lost when that is tied."""
        return False

    def control_at(self) -> float | None:
        """Where its control stands, from 0 to 1; None without one."""
        return None

    def beyond_window_db(self) -> float:
        """For an input with a gain control: how far that reaches beyond its window."""
        return 0.0

    def uncompressed(self) -> Iterator[tuple[str, Any]]:
        """Settings, any one of which takes its compressor out of the way."""
        return iter(())

    def moved_db(
        self, old: float, new: float, z_source_ohm: float = 0.0, z_load_ohm: float = math.inf
    ) -> float:
        """By how much its control moves the level on its way from one value to another.

        Impedances as it meets them; they count where it is a potentiometer.
        """
        grip = self.grip
        if isinstance(grip, Decibels):
            return new - old
        return 20 * math.log10(new / old) if old > 0 and new > 0 else 0.0

    def setting_words(self, value: float) -> str:
        """What its control is set to, as one would tell somebody at the bench."""
        if isinstance(self.grip, Turned):
            return turned_words(value)
        return f"{signed(value, 1 if value % 1 else 0)} dB"

    def carries(self) -> Carries:
        """For a source: what comes out of it; microphones carry speech."""
        return "speech"

    def into_it_db(self) -> float:
        """For a microphone: what speaking straight into it gains over speaking across it."""
        return 0.0

    def pops(self) -> bool:
        """For a microphone: whether breath reaches its diaphragm unhindered."""
        return False

    def openings(self) -> Iterator[tuple[str, dict[str, object]]]:
        """For a microphone in a case: changes of the case by a token, the easiest first."""
        return iter(())

    def case_alone(self, net: StageNet) -> str | None:
        """Build the way in through its case only; the node of the pressure behind it."""
        return None

    def opened_up(self) -> Gear | None:
        """For a microphone in a case: the same with the case opened and the capsule sealed."""
        return None

    def remarks(self) -> tuple[tuple[str, str], ...]:
        """Names and values of what the kind itself has to say about its figures."""
        return ()

    def name_by_values(self) -> str:
        """Its name, made anew where values stand in it: a pad is called by its shape and those."""
        if not self.is_pad:
            return self.name
        at = self.control_at()
        fields = [f for f, (q, _) in self.figures().items() if f in self.choices and q.unit is OHM]
        shown = " / ".join(format_short(self.figure(f).value) for f in fields)
        return f"{self.noun} {shown}" + ("" if at is None else f", at {at:.1%}")

    def outlet(self, inlet: Port) -> Port:
        """Conductors of its output, given those at its input as it takes them."""
        cold = inlet.chassis if self.passes_ground else f"{self.id}:ground"
        return Port(f"{self.id}:out", cold)

    def build(self, net: StageNet) -> None:
        """Add this piece's circuit between ``net.inlet`` and ``net.outlet``."""
        raise NotImplementedError

    def ceiling_dbu(self, around: Surroundings) -> float | None:
        """Level at the outlet, as a sine's RMS, above which it distorts; None when unlimited."""
        return None

    def input_ceiling_dbu(self, lowest_hz: float) -> float | None:
        """Level at the inlet above which it distorts, for sound from ``lowest_hz`` upwards."""
        return None

    def idle_fields(self) -> tuple[str, ...]:
        """Fields that play no part as the piece is now: not shown, not asked for."""
        return ()

    def section(self, field: str) -> str:
        """Heading under which a field is shown."""
        return self.sections[0]

    def hears_room_apart(self) -> bool:
        """Whether the room's noise reaches its diaphragm otherwise than the voice does."""
        return False

    def compression(self) -> Compression | None:
        """How its gain depends on level; None for fixed gain."""
        return None

    def window(self) -> Window | None:
        """Levels at the outlet (for an input: at its pins) where it works best, for speech."""
        return None

    def knob(self, level_dbu: float, signal: Signal) -> Knob | None:
        """For an input: where its own gain control will stand; None without one."""
        return None

    def window_for(self, signal: Signal) -> Window | None:
        """The same for another signal: with smaller peaks a box may run higher before it clips."""
        window = self.window()
        if window is None:
            return None
        return Window(window.low_dbu, window.high_dbu + SPEECH.crest_db - signal.crest_db)

    @classmethod
    def figures(cls) -> dict[str, tuple[Quantity, FieldInfo]]:
        """Fields that hold figures, in order, with what they accept."""
        found = {}
        for name, info in cls.model_fields.items():
            for extra in info.metadata:
                if isinstance(extra, Quantity):
                    found[name] = (extra, info)
        return found

    def figure(self, field: str) -> Figure:
        """The figure in ``field``."""
        value: Figure = getattr(self, field)
        return value

    def pulled(self, up_db: float, z_source_ohm: float, z_load_ohm: float) -> float:
        """The handle's value that lifts the level behind the piece by ``up_db`` from now.

        Impedances as it meets them now. Stopped where such parts end; kinds with an exact answer or
        limits of their own say so.
        """
        now = self._held_by()
        grip = self.grip
        assert grip is not None
        return self._within(grip.pull(now, up_db), now)

    def stepped(self, steps: int) -> float:
        """The handle's value some places up."""
        now = self._held_by()
        grip = self.grip
        assert grip is not None
        return self._within(grip.step(now, steps), now)

    def _held_by(self) -> float:
        assert self.handle is not None
        return self.figure(self.handle).value

    def _within(self, wanted: float, now: float) -> float:
        assert self.handle is not None
        quantity, _ = self.figures()[self.handle]
        return quantity.held(wanted, now)

    def built_alone(self) -> StageNet:
        """Its circuit by itself, between two ports."""
        inlet = Port(AIR, GROUND) if self.role == "microphone" else Port("in", "in-cold")
        net = StageNet(self.id, inlet, self.outlet(inlet))
        self.build(net)
        return net

    def as_a_part(self) -> Part:
        """A piece that is got whole."""
        return Part(1, self.noun, self.name, BOX)

    def on_mains(self) -> bool:
        """Whether it hangs on the mains."""
        return self.own_supply() in ("safety-earth", "double-insulated", "usb-computer")

    def own_supply(self) -> Supply | None:
        """What it says itself of the supply of its box; None for kinds that have none to say."""
        said: Supply | None = getattr(self, "supply", None)
        return said

    def own_earth_emf(self) -> Figure | None:
        """What it says itself of its box's way to earth; None for kinds that say nothing."""
        said: Figure | None = getattr(self, "earth_emf_v", None)
        return said

    @property
    def is_on_battery(self) -> bool:
        """Whether it says that a battery feeds it."""
        return self.own_supply() == "battery"

    def fed_from(self, volts: float, ohm: float) -> Gear:
        """The piece with what the radio's bias contact gives, where that feeds it."""
        return self

    @property
    def fed_at(self) -> str | None:
        """The node that a wire from the radio's bias contact goes to; None for most kinds."""
        return None

    def wants_supply(self) -> bool:
        """Whether it runs on a battery or a supply of its own."""
        return self.own_supply() is not None or "supply_v" in type(self).model_fields

    def shelf_group(self) -> Shelf:
        """The heading it stands under."""
        if self.shelf is not None:
            return self.shelf
        if self.role == "input":
            return "Inputs"
        if self.role == "between":
            return "Leads and parts"
        return "Microphones" if self.acoustic else "Other sources"

    @classmethod
    def has_rules(cls) -> bool:
        """Whether its figures must fit each other, beyond each being in its own bounds."""
        return bool(cls.__pydantic_decorators__.model_validators)

    def could_be(self, figures: dict[str, Figure]) -> bool:
        """Whether a piece of its kind could have these figures, each in its bounds, together."""
        piece = self.model_copy(update=figures)
        try:
            for rule in type(self).__pydantic_decorators__.model_validators.values():
                rule.func(piece)
        except PydanticCustomError:
            return False
        return True

    def with_values(self, values: dict[str, Any]) -> Gear:
        """Copy with fields replaced and checked again. Raises pydantic's ValidationError."""
        fields = {name: getattr(self, name) for name in type(self).model_fields}
        return type(self).model_validate(fields | values)
