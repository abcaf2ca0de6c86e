"""The drawing of one stage, by the plan of its kind."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from tonleiter.core.drawing.automatic import automatic
from tonleiter.core.drawing.draft import Draft
from tonleiter.core.drawing.plans import keyers, passive, stages, wholes
from tonleiter.core.drawing.sheet import Sheet
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import Port, StageNet
from tonleiter.core.gear.shopping import Item, Volts

Plan = Callable[[Draft], None]

PLANS: dict[str, Plan] = {
    "dynamic-microphone": wholes.capsule,
    "electret-2-wire": wholes.capsule,
    "electret-3-wire": stages.follower_electret,
    "piezo-microphone": wholes.capsule,
    "carbon-microphone": wholes.capsule,
    "ribbon-microphone": wholes.block,
    "amplified-desk-microphone": stages.desk_microphone,
    "phantom-condenser": wholes.block,
    "line-source": wholes.block,
    "loudspeaker-output": wholes.block,
    "cable": passive.lead,
    "capacitor": passive.series_capacitor,
    "l-pad": passive.l_pad,
    "t-pad": passive.t_pad,
    "u-pad": passive.u_pad,
    "series-pad": passive.series_pad,
    "trim-pot": passive.trim_pot,
    "input-divider": passive.input_divider,
    "transformer": passive.transformer,
    "common-mode-choke": passive.choke,
    "amplifier": wholes.block,
    "mixer-strip": wholes.block,
    "graphic-equaliser": wholes.block,
    "compressor": wholes.block,
    "microphone-amplifier": wholes.block,
    "bias-feed": stages.bias_feed,
    "phantom-feed": wholes.block,
    "bipolar-preamp": stages.bipolar,
    "jfet-preamp": stages.jfet,
    "opamp-preamp": stages.opamp,
    "valve-stage": wholes.block,
    "serial-transistor": keyers.serial_transistor,
    "serial-opto": keyers.serial_opto,
    "serial-relay": keyers.serial_relay,
    "own-circuit": automatic,
    "microphone-socket": wholes.block,
    "headset-input": wholes.block,
    "data-socket": wholes.block,
    "line-input": wholes.block,
}


def draw_stage(
    gear: Gear,
    net: StageNet,
    before: Port | None = None,
    volts: Volts | None = None,
    items: Iterable[Item] | None = None,
) -> Sheet:
    """Draw what a piece built; ``before`` is the joint before it, ``volts`` gives DC by node.

    ``items`` are its parts, where they have been found already.
    """
    draft = Draft(gear, net, before, volts, items)
    PLANS[gear.kind_id](draft)
    return draft.sheet()
