"""All kinds of gear, told apart by ``kind``."""

from __future__ import annotations

from typing import Annotated, get_args

from pydantic import Field

from tonleiter.core.gear.active import AmplifierStage, CompressorStage, MicrophoneAmplifier
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.bias_feed import BiasFeed
from tonleiter.core.gear.capsules import (
    CarbonMicrophone,
    FollowerElectret,
    PiezoMicrophone,
    RibbonMicrophone,
)
from tonleiter.core.gear.desk_microphone import DeskMicrophone
from tonleiter.core.gear.line_sources import LineSource
from tonleiter.core.gear.microphones import DynamicMicrophone, ElectretMicrophone
from tonleiter.core.gear.more_pads import InputDivider, SeriesPad, TPad, TrimPot, UPad
from tonleiter.core.gear.own_circuit import OwnCircuit
from tonleiter.core.gear.passives import Cable, CommonModeChoke, LPad, SeriesCapacitor, Transformer
from tonleiter.core.gear.phantom import PhantomCondenser, PhantomFeed
from tonleiter.core.gear.preamps import BipolarPreamp, JfetPreamp, OpAmpPreamp
from tonleiter.core.gear.radio_outputs import LoudspeakerOutput
from tonleiter.core.gear.sockets import DataSocket, HeadsetInput, LineInput, MicrophoneSocket
from tonleiter.core.gear.tone import GraphicEqualiser, MixerStrip
from tonleiter.core.gear.valves import ValveStage

AnyGear = Annotated[
    DynamicMicrophone
    | ElectretMicrophone
    | FollowerElectret
    | PiezoMicrophone
    | CarbonMicrophone
    | RibbonMicrophone
    | DeskMicrophone
    | PhantomCondenser
    | LineSource
    | LoudspeakerOutput
    | Cable
    | SeriesCapacitor
    | LPad
    | TPad
    | UPad
    | SeriesPad
    | TrimPot
    | InputDivider
    | Transformer
    | CommonModeChoke
    | AmplifierStage
    | MixerStrip
    | GraphicEqualiser
    | CompressorStage
    | MicrophoneAmplifier
    | BiasFeed
    | PhantomFeed
    | BipolarPreamp
    | JfetPreamp
    | OpAmpPreamp
    | ValveStage
    | OwnCircuit
    | MicrophoneSocket
    | HeadsetInput
    | DataSocket
    | LineInput,
    Field(discriminator="kind"),
]

# the union inside the annotation is the list of all kinds
KINDS: dict[str, type[Gear]] = {
    str(cls.model_fields["kind"].default): cls for cls in get_args(get_args(AnyGear)[0])
}
