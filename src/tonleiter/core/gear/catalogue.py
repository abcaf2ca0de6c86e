"""All kinds of gear, told apart by ``kind``."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from tonleiter.core.gear.active import AmplifierStage, BiasFeed
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.microphones import DynamicMicrophone, ElectretMicrophone
from tonleiter.core.gear.passives import Cable, LPad, SeriesCapacitor, Transformer
from tonleiter.core.gear.sockets import MicrophoneSocket

AnyGear = Annotated[
    DynamicMicrophone
    | ElectretMicrophone
    | Cable
    | SeriesCapacitor
    | LPad
    | Transformer
    | AmplifierStage
    | BiasFeed
    | MicrophoneSocket,
    Field(discriminator="kind"),
]

KINDS: dict[str, type[Gear]] = {
    str(cls.model_fields["kind"].default): cls
    for cls in (
        DynamicMicrophone,
        ElectretMicrophone,
        Cable,
        SeriesCapacitor,
        LPad,
        Transformer,
        AmplifierStage,
        BiasFeed,
        MicrophoneSocket,
    )
}
