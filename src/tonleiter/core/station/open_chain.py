"""What something that is kept is of: the open chain as it stands, by names of its day and ids."""

from __future__ import annotations

from typing import Any

from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.model import Station


def of_open_chain(station: Station) -> dict[str, Any]:
    """Chain, microphone and radio; nothing where no chain is open."""
    if not station.chains:
        return {}
    basis = basis_of(station)
    socket = station.placed(station.chain().variant().stages[-1])
    box = station.device_by_port.get(socket.id)
    return {
        "chain_id": basis.chain,
        "chain": basis.chain_name,
        "microphone": basis.stages[0].name,
        "radio": box.name if box is not None else socket.name,
    }
