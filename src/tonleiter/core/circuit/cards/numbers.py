"""Numbers and ``{expressions}`` of netlist cards, where ``m`` is milli and ``meg`` is mega."""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable, Mapping

from tonleiter.core.refused import RefusedError
from tonleiter.core.words import quoted

# longer numbers and expressions are no work of a hand; deep nesting would exhaust the parser
MOST_DIGITS, MOST_OF_EXPRESSION = 60, 500

_SUFFIX = (("meg", 6), ("t", 12), ("g", 9), ("k", 3), ("m", -3), ("u", -6), ("µ", -6), ("n", -9))
_SUFFIXES = (*_SUFFIX, ("p", -12), ("f", -15))
_NUMBER = re.compile(r"^([+-]?(?:\d+\.?\d*|\.\d+))(?:e([+-]?\d+))?([a-zµ]*)$", re.I)
_LETTER_AS_POINT = re.compile(r"^(\d+)(meg|[fpnumkgtr])(\d+)$", re.I)
_UNITS = frozenset(
    {"", "v", "a", "s", "f", "h", "hz", "ohm", "ohms", "volt", "volts", "amp", "amps"}
)
_UNIT_WORDS = _UNITS | {"farad", "henry", "r"}


class NumberError(RefusedError):
    """The text is not a number or expression; the message says what would be accepted."""


def parse_number(text: str) -> float:
    """Read ``4.7k``, ``4k7``, ``100nF``, ``1meg``, ``1e-3``; units after the suffix are ignored."""
    lowered = text.strip().lower()
    value = _value(lowered) if len(lowered) <= MOST_DIGITS else None
    if value is None:
        raise NumberError(f"{quoted(text)} is not a number; write it like 4.7k, 100n, 1meg or 1e-3")
    if not math.isfinite(value):
        raise NumberError(f"{quoted(text)} is not a finite number")
    return value


def _value(lowered: str) -> float | None:
    """The number that a text of few letters stands for; None for no number."""
    if match := _LETTER_AS_POINT.match(lowered):
        whole, letter, fraction = match.groups()
        exponent = 0 if letter == "r" else dict(_SUFFIXES)[letter]
        return float(f"{whole}.{fraction}e{exponent}")
    match = _NUMBER.match(lowered)
    if match:
        mantissa, power, tail = match.groups()
        base = int(power or 0)
        for suffix, exponent in _SUFFIXES:
            if tail.startswith(suffix) and tail[len(suffix) :] in _UNIT_WORDS:
                return float(f"{mantissa}e{base + exponent}")
        if tail in _UNIT_WORDS:
            return float(f"{mantissa}e{base}")
    return None


_BINARY: dict[type[ast.operator], Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
}
_FUNCTIONS: dict[str, Callable[..., float]] = {
    "sqrt": math.sqrt,
    "exp": math.exp,
    "ln": math.log,
    "log": math.log,
    "log10": math.log10,
    "abs": abs,
    "min": min,
    "max": max,
    "sin": math.sin,
    "cos": math.cos,
    "atan": math.atan,
}
_TOKEN = re.compile(
    r"(?P<number>(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?[a-zµ0-9]*)|(?P<name>[a-z_][\w.]*)|(?P<other>\*\*|.)",
    re.I,
)


def evaluate(text: str, parameters: Mapping[str, float]) -> float:
    """Value of a card field: a number, a parameter name, or an expression in braces or quotes.

    Raises NumberError. Names are case-insensitive; only arithmetic and a few functions are allowed.
    """
    body = text.strip()
    if body[:1] in "{'" and body[-1:] in "}'" and len(body) >= 2:
        return _expression(body[1:-1], parameters)
    if body.lower() in parameters:
        return parameters[body.lower()]
    return parse_number(body)


def _expression(body: str, parameters: Mapping[str, float]) -> float:
    if len(body) > MOST_OF_EXPRESSION:
        raise NumberError(
            f"{quoted(body)} is longer than an expression may be ({MOST_OF_EXPRESSION} characters)"
        )
    pieces = []
    for match in _TOKEN.finditer(body.lower().replace("^", "**")):
        if match["number"]:
            pieces.append(repr(parse_number(match["number"])))
        else:
            pieces.append(match.group())
    try:
        value = _walk(ast.parse("".join(pieces).strip(), mode="eval").body, parameters)
    except NumberError:
        raise
    except (
        SyntaxError,
        TypeError,
        ValueError,
        ArithmeticError,
        RecursionError,
        MemoryError,
    ) as error:
        why = error.args[0] if error.args else "it is too deep"
        raise NumberError(f"{quoted(f'{{{body}}}')} cannot be computed: {why}") from None
    if isinstance(value, complex) or not math.isfinite(value):
        raise NumberError(f"{quoted(f'{{{body}}}')} does not give a finite number")
    return float(value)


def _walk(node: ast.expr, parameters: Mapping[str, float]) -> float:
    match node:
        case ast.Constant(value=int() | float()):
            return float(node.value)  # type: ignore[arg-type]
        case ast.Name(id=name):
            if name not in parameters:
                raise NumberError(f"there is no parameter called {quoted(name)}")
            return parameters[name]
        case ast.BinOp(left=left, op=op, right=right) if type(op) in _BINARY:
            return _BINARY[type(op)](_walk(left, parameters), _walk(right, parameters))
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_walk(operand, parameters)
        case ast.UnaryOp(op=ast.UAdd(), operand=operand):
            return _walk(operand, parameters)
        case ast.Call(func=ast.Name(id=name), args=args, keywords=[]) if name in _FUNCTIONS:
            return _FUNCTIONS[name](*(_walk(a, parameters) for a in args))
    raise NumberError("only + − * / ** and sqrt, exp, ln, log10, abs, min, max are understood")


def format_number(value: float) -> str:
    """Shortest text that reads back to the same value."""
    return repr(float(value))
