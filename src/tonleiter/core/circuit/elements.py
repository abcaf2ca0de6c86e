"""Circuit elements as frozen values. Node "0" is ground; currents flow from ``p`` to ``n``."""

from __future__ import annotations

from dataclasses import dataclass, field

from tonleiter.core.circuit.waves import Wave
from tonleiter.core.refused import RefusedError

GROUND = "0"


class CircuitError(RefusedError):
    """The circuit cannot be computed; the message says which element or node is at fault."""


@dataclass(frozen=True)
class PowerLaw:
    """One term of a power spectral density: ``at_1khz * (f / 1 kHz) ** -exponent``.

    ``at_1khz`` is in V²/Hz or A²/Hz. Exponent 0 is white, 1 is flicker.
    """

    at_1khz: float
    exponent: float = 0.0


Spectrum = tuple[PowerLaw, ...]


@dataclass(frozen=True)
class Resistor:
    """Ohmic resistance. ``noisy`` resistors carry thermal noise 4kT/R (Johnson–Nyquist)."""

    name: str
    p: str
    n: str
    ohm: float
    noisy: bool = True


@dataclass(frozen=True)
class Capacitor:
    """Capacitance; open at DC."""

    name: str
    p: str
    n: str
    farad: float


@dataclass(frozen=True)
class Inductor:
    """Inductance; a short at DC. Its current is an unknown of the system."""

    name: str
    p: str
    n: str
    henry: float


@dataclass(frozen=True)
class Coupling:
    """Mutual inductance M = k sqrt(L1 L2) between two inductors named ``first`` and ``second``."""

    name: str
    first: str
    second: str
    k: float


@dataclass(frozen=True)
class VoltageSource:
    """Ideal voltage source with a DC value, an AC phasor and a noise density in V²/Hz.

    ``wave`` is its value over time, which counts in a transient only.
    """

    name: str
    p: str
    n: str
    dc: float = 0.0
    ac: complex = 0.0
    noise: Spectrum = ()
    wave: Wave | None = None


@dataclass(frozen=True)
class CurrentSource:
    """Ideal current source driving current from ``p`` through itself to ``n``; noise in A²/Hz."""

    name: str
    p: str
    n: str
    dc: float = 0.0
    ac: complex = 0.0
    noise: Spectrum = ()
    wave: Wave | None = None


@dataclass(frozen=True)
class Vcvs:
    """Voltage-controlled voltage source (card E)."""

    name: str
    p: str
    n: str
    cp: str
    cn: str
    gain: float


@dataclass(frozen=True)
class Vccs:
    """Voltage-controlled current source (card G), in siemens."""

    name: str
    p: str
    n: str
    cp: str
    cn: str
    siemens: float


@dataclass(frozen=True)
class Cccs:
    """Current-controlled current source (card F); ``control`` names a voltage source."""

    name: str
    p: str
    n: str
    control: str
    gain: float


@dataclass(frozen=True)
class Ccvs:
    """Current-controlled voltage source (card H); ``control`` names a voltage source."""

    name: str
    p: str
    n: str
    control: str
    ohm: float


@dataclass(frozen=True)
class DiodeModel:
    """Shockley diode with emission coefficient and series resistance.

    Backwards it conducts ``ibv_a`` at ``bv_v``, exponentially more beyond.
    """

    is_a: float = 1e-14
    n: float = 1.0
    rs_ohm: float = 0.0
    bv_v: float = float("inf")
    ibv_a: float = 1e-3


@dataclass(frozen=True)
class BipolarModel:
    """Gummel–Poon without high-injection terms. ``polarity`` is +1 for NPN, −1 for PNP."""

    polarity: int = 1
    is_a: float = 1e-16
    bf: float = 100.0
    br: float = 1.0
    nf: float = 1.0
    nr: float = 1.0
    vaf_v: float = float("inf")


@dataclass(frozen=True)
class JfetModel:
    """Shichman–Hodges. ``polarity`` is +1 for N-channel, −1 for P-channel; VTO as for N-channel."""

    polarity: int = 1
    vto_v: float = -2.0
    beta_a_per_v2: float = 1e-4
    lambda_per_v: float = 0.0
    is_a: float = 1e-14


@dataclass(frozen=True)
class Diode:
    """Junction diode."""

    name: str
    anode: str
    cathode: str
    model: DiodeModel = field(default_factory=DiodeModel)
    area: float = 1.0


@dataclass(frozen=True)
class Bipolar:
    """Bipolar transistor."""

    name: str
    collector: str
    base: str
    emitter: str
    model: BipolarModel = field(default_factory=BipolarModel)
    area: float = 1.0


@dataclass(frozen=True)
class Jfet:
    """Junction field-effect transistor."""

    name: str
    drain: str
    gate: str
    source: str
    model: JfetModel = field(default_factory=JfetModel)
    area: float = 1.0


@dataclass(frozen=True)
class ModulatedResistor:
    """A resistance that a control voltage modulates: i = v/ohm · (1 + per_volt · v(cp, cn)).

    Stands for carbon granules under pressure. ``noise`` is a density of the control, in V²/Hz:
    granules rustle in proportion to the current that flows through them.
    """

    name: str
    p: str
    n: str
    cp: str
    cn: str
    ohm: float
    per_volt: float
    noise_v2_per_hz: float = 0.0


@dataclass(frozen=True)
class OpAmpModel:
    """An operational amplifier between rails, as its sheet gives it.

    ``keeps_v`` is what its output stays off each rail, ``limit_a`` the most that its output gives
    or takes, ``draws_a`` what it draws at rest, ``alive_v`` the supply under which it is dead.
    """

    open_loop: float = 1e5
    keeps_v: float = 1.5
    limit_a: float = 25e-3
    output_ohm: float = 100.0
    draws_a: float = 2e-3
    alive_v: float = 3.0
    input_siemens: float = 1e-3
    slews_a: float = 250e-6
    noise_v2_per_hz: float = 0.0


@dataclass(frozen=True)
class OpAmp:
    """Operational amplifier. ``pole`` is an inner node: a capacitor from there sets its band."""

    name: str
    plus: str
    minus: str
    pole: str
    out: str
    upper: str
    lower: str
    model: OpAmpModel = field(default_factory=OpAmpModel)


@dataclass(frozen=True)
class RegulatorModel:
    """A series regulator: volts that it holds, headroom, its limit, what it draws by itself."""

    holds_v: float = 8.0
    headroom_v: float = 0.3
    limit_a: float = 0.15
    draws_a: float = 0.1e-3
    output_ohm: float = 0.3


@dataclass(frozen=True)
class Regulator:
    """Series regulator: from ``inlet`` to ``out``, both over ``common``; nothing backwards."""

    name: str
    inlet: str
    out: str
    common: str
    model: RegulatorModel = field(default_factory=RegulatorModel)


Element = (
    Resistor
    | Capacitor
    | Inductor
    | Coupling
    | VoltageSource
    | CurrentSource
    | Vcvs
    | Vccs
    | Cccs
    | Ccvs
    | Diode
    | Bipolar
    | Jfet
    | ModulatedResistor
    | OpAmp
    | Regulator
)


@dataclass(frozen=True)
class Circuit:
    """A flat circuit: its elements and the conditions it is solved under."""

    elements: tuple[Element, ...]
    temperature_k: float = 300.15
    gmin_s: float = 1e-12
    title: str = ""
