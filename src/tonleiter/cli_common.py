"""What the commands share: exit codes, refusals, JSON."""

from __future__ import annotations

import json
from typing import Any

RAN, STOPPED, BAD_INPUT = 0, 1, 2


class BadInputError(Exception):
    """One line for the user: what, where, what would be accepted."""


def print_json(data: Any) -> None:  # noqa: ANN401 - whatever JSON holds
    """Print data whose keys carry their units."""
    print(json.dumps(data, indent=1, ensure_ascii=False, allow_nan=False))
