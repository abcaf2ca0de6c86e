"""What a transmitter does to audio, by its own figures: typical until somebody measured them."""

from __future__ import annotations

from pydantic import Field

from tonleiter.core.gear.figure import Decibels, Hertz, Seconds, typical
from tonleiter.core.station.value import Value


class Transmitter(Value):
    """Level control, compressor and limiter of a set; fields are titled as they are asked for."""

    alc_full_db: Decibels = Field(typical(15.0), title="ALC meter's end")
    alc_attack_s: Seconds = Field(typical(2e-3), title="ALC attack")
    alc_hang_s: Seconds = Field(typical(0.1), title="ALC hang")
    alc_falls_db: Decibels = Field(typical(30.0), title="ALC falls, dB a second")
    compressor_attack_s: Seconds = Field(typical(1e-3), title="Compressor's attack")
    compressor_release_s: Seconds = Field(typical(0.03), title="Compressor's release")
    products_db: Decibels = Field(typical(30.0), title="Products under PEP")
    carrier_db: Decibels = Field(typical(50.0), title="Carrier under PEP")
    other_sideband_db: Decibels = Field(typical(50.0), title="Other sideband under PEP")
    noise_db: Decibels = Field(typical(70.0), title="Noise in 3 kHz under PEP")
    deviation_hz: Hertz = Field(typical(4300.0), title="FM limiter at")
