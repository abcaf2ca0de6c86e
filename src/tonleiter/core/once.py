"""A property that is computed once, without the lock that Python 3.11 has for all instances.

That lock is the class's: while one thread computes a property of one object, another one would wait
with the same property of any other object, and work that rests would hold up work that is waited
for. Without it two threads may compute the same value twice; both are right, and one of them stays.
"""

from __future__ import annotations

import functools
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from functools import cached_property as cached_property
else:

    class cached_property(functools.cached_property):  # noqa: N801 - in the other's place
        """Like ``functools.cached_property`` of Python 3.12."""

        # models of the document know a property of this kind by where it comes from
        __module__ = "functools"

        def __get__(self, instance: Any, owner: type[Any] | None = None) -> Any:  # noqa: ANN401
            """The value, computed when it is first asked for."""
            if instance is None:
                return self
            kept = instance.__dict__
            if self.attrname not in kept:
                kept[self.attrname] = self.func(instance)
            return kept[self.attrname]
