"""One clear line out of a validation error: what, where, what would be accepted."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, get_args

from pydantic import BaseModel, ValidationError

from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.station.model import Station
from tonleiter.core.words import cut, quoted, visible


def one_line(error: ValidationError, raw: Any, root: type[BaseModel] = Station) -> str:  # noqa: ANN401
    """The first thing wrong in data for a ``root``, with the path to it in the user's words."""
    first = min(error.errors(), key=_gravest)
    path = tuple(p for p in first["loc"] if p not in KINDS)
    # the message names an unknown key itself
    where = _spoken_path(path[:-1] if first["type"] == "extra_forbidden" else path, raw)
    more = error.error_count() - 1
    tail = f" (and {more} more)" if more else ""
    return f"{where}{_message(first, path, root)}{tail}"


def _gravest(error: Any) -> int:  # noqa: ANN401 - pydantic's ErrorDetails
    """An unknown key explains the missing one beside it, so it is named first."""
    return 0 if error["type"] == "extra_forbidden" else 1


def _message(error: Any, path: tuple[int | str, ...], root: type[BaseModel]) -> str:  # noqa: ANN401
    kind, context = error["type"], error.get("ctx", {})
    match kind:
        case "extra_forbidden":
            known = _known_keys(error["loc"], root)
            hint = f"; known keys: {', '.join(known)}" if known else ""
            return f"unknown key {quoted(path[-1])}{hint}"
        case "missing":
            return f"“{path[-1]}” is missing"
        case "literal_error":
            return f"{_shown(error['input'])} is not one of {context['expected']}"
        case "union_tag_invalid":
            tag = quoted(context["tag"])
            return f"there is no kind of gear called {tag}; known: {', '.join(KINDS)}"
        case "union_tag_not_found":
            return f"“kind” is missing; known kinds: {', '.join(KINDS)}"
        case "string_type":
            return f"{_shown(error['input'])} is not a text"
        case "tuple_type":
            return f"{_shown(error['input'])} is not a list"
        case "model_type" | "dict_type" | "model_attributes_type":
            return f"{_shown(error['input'])} is not an object {{…}}"
        case "too_short":
            return f"at least {context['min_length']} wanted, {context['actual_length']} given"
        case "too_long":
            return f"at most {context['max_length']} wanted, {context['actual_length']} given"
        case "string_too_long":
            return f"a text of at most {context['max_length']} characters is wanted"
        case "string_pattern_mismatch":
            return f"{_shown(error['input'])} is not an id; small letters, digits and - are"
    message: str = error["msg"]
    return message


def _shown(value: Any) -> str:  # noqa: ANN401
    if isinstance(value, str):
        return quoted(value)
    return quoted(value)[1:-1]


def _spoken_path(path: tuple[int | str, ...], raw: Any) -> str:  # noqa: ANN401
    """``gear 3 “l-pad” series_ohm: `` - counting from 1, with ids where the file has them."""
    words: list[str] = []
    here = raw
    for part in path:
        if isinstance(part, int):
            here = here[part] if isinstance(here, list) and part < len(here) else None
            name = here.get("id", here.get("gear")) if isinstance(here, dict) else None
            words.append(f"{part + 1}" + (f" {quoted(name)}" if isinstance(name, str) else ""))
        else:
            here = here.get(part) if isinstance(here, dict) else None
            words.append(cut(visible(part), 60))
    if path and isinstance(path[-1], str) and here is None:
        words = words[:-1] if not _key_present(path, raw) else words
    return " ".join(words) + ": " if words else ""


def _key_present(path: tuple[int | str, ...], raw: Any) -> bool:  # noqa: ANN401
    here = raw
    for part in path:
        try:
            here = here[part]
        except (KeyError, IndexError, TypeError):
            return False
    return True


def _known_keys(location: tuple[int | str, ...], root: type[BaseModel]) -> list[str]:
    """Keys of the model that holds the last part of ``location``."""
    holder: type[BaseModel] | None = root
    for part in location[:-1]:
        if isinstance(part, int) or holder is None:
            continue
        if part in KINDS:
            holder = KINDS[part]
        elif (field := holder.model_fields.get(part)) is not None:
            holder = next(_models_in(field.annotation), None)
    return list(holder.model_fields) if holder else []


def _models_in(annotation: Any) -> Iterator[type[BaseModel]]:  # noqa: ANN401 - any annotation
    """Models that a field may hold, alone or in a list."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for inner in get_args(annotation):
        yield from _models_in(inner)
