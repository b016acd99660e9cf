"""Formulas: Python expressions with units, evaluated by walking the syntax tree.

Nothing is ever handed to the interpreter: only the node types, functions and names listed
here mean anything. A unit written after a number binds tighter than any operator, so
``10 mm / 2 mm`` is 5 and ``2 mm**2`` is an area.
"""

from __future__ import annotations

import ast
import difflib
import io
import keyword
import math
import re
import tokenize
from collections.abc import Callable, Mapping
from functools import lru_cache

from vireo.core.quantity.units import ANGLE, LENGTH, NUMBER, UNITS, Dimension, Quantity
from vireo.core.trouble import Trouble

MAX_LENGTH = 500
MAX_DEPTH = 40
MAX_NODES = 300
MAX_POWER = 12

Value = Quantity | bool


class FormulaError(Trouble):
    """A formula that cannot be read or has no value."""

    code = "formula"


def _need(value: Value, dimension: Dimension, who: str) -> float:
    quantity = _quantity(value, who)
    if quantity.dimension != dimension:
        hint = ": write 20 deg, not 20" if dimension == ANGLE else ""
        raise FormulaError(f"{who} takes {_a(dimension)}, but got {_a(quantity.dimension)}{hint}")
    return quantity.value


def _a(dimension: Dimension) -> str:
    if dimension.plain:
        return "a plain number"
    name = dimension.name
    return f"an {name}" if name[0] in "aeiou" else f"a {name}"


def _quantity(value: Value, who: str) -> Quantity:
    if isinstance(value, bool):
        raise FormulaError(f"{who} takes a number, but got yes/no")
    return value


def _alike(values: list[Value], who: str) -> list[Quantity]:
    found = [_quantity(v, who) for v in values]
    if not found:
        raise FormulaError(f"{who} needs at least one value")
    for other in found[1:]:
        if other.dimension != found[0].dimension:
            raise FormulaError(
                f"{who} cannot mix {_a(found[0].dimension)} with {_a(other.dimension)}"
            )
    return found


def _trig(function: Callable[[float], float]) -> Callable[..., Quantity]:
    def run(*args: Value) -> Quantity:
        (x,) = args
        return Quantity(function(_need(x, ANGLE, function.__name__)))

    return run


def _arc(function: Callable[[float], float]) -> Callable[..., Quantity]:
    def run(*args: Value) -> Quantity:
        (x,) = args
        number = _need(x, NUMBER, function.__name__)
        if function is not math.atan and abs(number) > 1.0:
            raise FormulaError(f"{function.__name__} takes -1 to 1, but got {number:g}")
        return Quantity(function(number), ANGLE)

    return run


def _sqrt(x: Value) -> Quantity:
    quantity = _quantity(x, "sqrt")
    d = quantity.dimension
    if quantity.value < 0:
        raise FormulaError(f"sqrt takes a value of zero or more, but got {quantity.value:g}")
    if any(e % 2 for e in (d.length, d.mass, d.time, d.angle, d.temperature)):
        raise FormulaError(f"sqrt of {_a(d)} has no unit; it takes a plain number or an area")
    half = Dimension(d.length // 2, d.mass // 2, d.time // 2, d.angle // 2, d.temperature // 2)
    return Quantity(math.sqrt(quantity.value), half)


def _hypot(*args: Value) -> Quantity:
    found = _alike(list(args), "hypot")
    return Quantity(math.hypot(*(q.value for q in found)), found[0].dimension)


def _atan2(*args: Value) -> Quantity:
    y, x = _alike(list(args), "atan2")
    return Quantity(math.atan2(y.value, x.value), ANGLE)


def _choose(function: Callable[..., float], who: str) -> Callable[..., Quantity]:
    def run(*args: Value) -> Quantity:
        found = _alike(list(args), who)
        return Quantity(function([q.value for q in found]), found[0].dimension)

    return run


def _stepped(function: Callable[[float], float], who: str) -> Callable[..., Quantity]:
    """`round(x)` for plain numbers, `round(x, 0.5 mm)` to a multiple for anything else."""

    def run(*args: Value) -> Quantity:
        x = _quantity(args[0], who)
        if len(args) == 1:
            if not x.dimension.plain:
                raise FormulaError(
                    f"{who} of {_a(x.dimension)} needs the step to round to: {who}(value, 1 mm)"
                )
            return Quantity(float(function(x.value)))
        x, step = _alike(list(args), who)
        if step.value == 0:
            raise FormulaError(f"{who} cannot round to a step of zero")
        return Quantity(float(function(x.value / step.value)) * step.value, x.dimension)

    return run


def _abs(x: Value) -> Quantity:
    quantity = _quantity(x, "abs")
    return Quantity(abs(quantity.value), quantity.dimension)


#: name -> (function, least and most number of arguments)
FUNCTIONS: dict[str, tuple[Callable[..., Quantity], int, int]] = {
    "sin": (_trig(math.sin), 1, 1),
    "cos": (_trig(math.cos), 1, 1),
    "tan": (_trig(math.tan), 1, 1),
    "asin": (_arc(math.asin), 1, 1),
    "acos": (_arc(math.acos), 1, 1),
    "atan": (_arc(math.atan), 1, 1),
    "atan2": (_atan2, 2, 2),
    "sqrt": (_sqrt, 1, 1),
    "hypot": (_hypot, 2, 3),
    "min": (_choose(min, "min"), 1, 20),
    "max": (_choose(max, "max"), 1, 20),
    "abs": (_abs, 1, 1),
    "round": (_stepped(round, "round"), 1, 2),
    "floor": (_stepped(math.floor, "floor"), 1, 2),
    "ceil": (_stepped(math.ceil, "ceil"), 1, 2),
}
CONSTANTS: dict[str, Quantity] = {"pi": Quantity(math.pi)}
_INCH = "_inch"  # `in` is a keyword of the expression language; it can only follow a number


def reserved(name: str) -> str | None:
    """Why a parameter may not have this name, or None when it may."""
    if not name.isidentifier() or not name.isascii() or name.startswith("_"):
        return "names are letters, digits and _ and start with a letter"
    if name in UNITS:
        return f"{name} is a unit"
    if name in FUNCTIONS or name in CONSTANTS:
        return f"{name} is built in"
    if keyword.iskeyword(name):
        return f"{name} is part of the formula language"
    if len(name) > 40:
        return "names have at most 40 letters"
    return None


def _tokens(text: str) -> list[tokenize.TokenInfo]:
    try:
        found = list(tokenize.generate_tokens(io.StringIO(text).readline))
    except (tokenize.TokenError, IndentationError, SyntaxError) as error:
        raise FormulaError(f"“{text}” stops half-way: {_syntax_reason(error)}") from error
    return [t for t in found if t.type not in (tokenize.NEWLINE, tokenize.NL, tokenize.ENDMARKER)]


def _syntax_reason(error: Exception) -> str:
    text = str(error.args[0]) if error.args else "it cannot be read"
    return "a bracket is not closed" if "EOF" in text or "never closed" in text else text


#: Whole numbers over whole numbers in front of a unit, maybe behind a whole one: 1 1/4 in.
_FRACTION = re.compile(r"(?<![\w.)*/])(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)(?=\s*(?:%s)\b)")
#: Feet and inches as they stand on a drawing: 5'-3 1/2", 5' 3", 0.25".
_INCHES = r"(?:(\d+)\s+)?(?:(\d+)\s*/\s*(\d+)|(\d*\.?\d+))\s*\""
_FEET = re.compile(rf"(?<![\w.])(\d+(?:\.\d+)?)\s*'(?:\s*-?\s*{_INCHES})?")
_FEET_WORDS = re.compile(
    r"(?<![\w.])(\d+(?:\.\d+)?)\s*ft\s+(?:(\d+)\s+)?(?:(\d+)\s*/\s*(\d+)|(\d*\.?\d+))\s*in\b"
)
_INCH_MARK = re.compile(rf"(?<![\w.]){_INCHES}")
_COMMA = re.compile(r"^\s*([-+]?\d+),(\d+)(\s*[A-Za-z\"']|\s*$)")


def _as_written(text: str) -> str:
    """What engineers write by hand as what the formula language reads.

    >>> _as_written("1 1/4 in")
    '(1+1/4) in'
    """
    if found := _COMMA.match(text):
        rest = text[found.end(2) :]
        raise FormulaError(
            f"write {found[1]}.{found[2]}{rest}: a point stands before the decimals, not a comma"
        )

    def inches(whole: str | None, top: str | None, under: str | None, plain: str | None) -> str:
        part = plain or f"{top}/{under}"
        return f"{whole}+{part}" if whole else part

    def feet(m: re.Match[str]) -> str:
        more = m.group(2, 3, 4, 5)
        return f"({m[1]} ft + ({inches(*more)}) in)" if any(more) else f"({m[1]} ft)"

    def fraction(m: re.Match[str]) -> str:
        return f"({m[1]}+{m[2]}/{m[3]})" if m[1] else f"({m[2]}/{m[3]})"

    text = _FEET.sub(feet, _FEET_WORDS.sub(feet, text))
    text = _INCH_MARK.sub(lambda m: f"({inches(*m.group(1, 2, 3, 4))}) in", text)
    return _units_pattern().sub(fraction, text)


@lru_cache(maxsize=1)
def _units_pattern() -> re.Pattern[str]:
    names = "|".join(sorted(UNITS, key=len, reverse=True))
    return re.compile(_FRACTION.pattern % names)


#: Powers as they stand behind a unit: cm3, m2, s2, mm².
_POWERED = re.compile(r"([A-Za-z]+?)([23])$")
_SUPER = str.maketrans({"²": "2", "³": "3"})


def _unit_word(word: str) -> str | None:
    """A unit with its power as an expression, None when it is none: ``cm3``, ``m²``; ``mK`` is
    metres times kelvins, as in W/mK."""
    word = word.translate(_SUPER)
    if word in UNITS:
        return _INCH if word == "in" else word
    if found := _POWERED.match(word):
        base = _unit_word(found[1])
        return f"{base}**{found[2]}" if base else None
    return "(m*K)" if word == "mK" else None


def _with_units(text: str) -> str:
    """Turn ``5 mm`` into ``(5*mm)`` and ``2.7 g/cm3`` into ``(2.7*g/cm**3)``: units behind a
    number bind tighter than any operator, with their powers and quotients."""
    text = _as_written(text).replace("·", "*").replace("^", "**")
    tokens = _tokens(text.translate(_SUPER))
    out: list[str] = []
    i = 0
    while i < len(tokens):
        token = tokens[i]
        closing = token.string == ")" and i > 0
        end, unit = _unit_at(tokens, i + 1)
        if unit and token.type == tokenize.NUMBER:
            out.append(f"({token.string}*{unit})")
        elif unit and closing:
            out.append(f")*({unit})")
        else:
            out.append(token.string)
            end = i + 1
        i = end
    return " ".join(out)


def _unit_at(tokens: list[tokenize.TokenInfo], i: int) -> tuple[int, str]:
    """The units that stand at a place, and where they end; none is an empty text."""
    if i >= len(tokens) or not (unit := _unit_word(tokens[i].string)):
        return i, ""
    i += 1
    while i + 1 < len(tokens):
        sign, after = tokens[i].string, tokens[i + 1]
        if sign == "**" and after.type == tokenize.NUMBER:
            unit, i = f"{unit}**{after.string}", i + 2
        elif sign in ("/", "*") and (more := _unit_word(after.string)):
            unit, i = f"{unit}{sign}{more}", i + 2
        else:
            break
    return i, unit


def _depth(node: ast.AST) -> int:
    deepest, level = 0, [node]
    while level:
        deepest += 1
        level = [child for parent in level for child in ast.iter_child_nodes(parent)]
    return deepest


@lru_cache(maxsize=4096)
def _parse(text: str) -> ast.expr:
    if not text.strip():
        raise FormulaError("a formula is needed here, such as 12 mm or wall * 2")
    if len(text) > MAX_LENGTH:
        raise FormulaError(f"a formula has at most {MAX_LENGTH} characters; this has {len(text)}")
    try:
        tree = ast.parse(_with_units(text.strip()), mode="eval").body
    except SyntaxError as error:
        raise FormulaError(f"“{text}” cannot be read as a formula") from error
    except (RecursionError, MemoryError, ValueError) as error:
        raise FormulaError("this formula is nested too deeply") from error
    if _depth(tree) > MAX_DEPTH or sum(1 for _ in ast.walk(tree)) > MAX_NODES:
        raise FormulaError("this formula is nested too deeply; give parts of it a name")
    return tree


def names_in(text: str) -> set[str]:
    """Names of parameters a formula uses. Raises FormulaError when it cannot be read."""
    return {
        node.id
        for node in ast.walk(_parse(text))
        if isinstance(node, ast.Name)
        and node.id not in UNITS
        and node.id not in FUNCTIONS
        and node.id not in CONSTANTS
        and node.id != _INCH
    }


def rename_in(text: str, old: str, new: str) -> str:
    """The same formula, letter for letter, with the name `old` replaced by `new`."""
    try:
        tokens = _tokens(text)
    except FormulaError:
        return text  # a formula that cannot be read uses no name
    for token in reversed(tokens):
        if token.type == tokenize.NAME and token.string == old and token.start[0] == 1:
            text = text[: token.start[1]] + new + text[token.end[1] :]
    return text


def evaluate(text: str, names: Mapping[str, Quantity] | None = None) -> Quantity:
    """The value of a formula.

    >>> evaluate("wall*2 + 0.5 mm", {"wall": Quantity(4.0, LENGTH)}).value
    8.5

    Raises FormulaError for anything that has no value: unknown names (with the nearest known
    ones), unlike dimensions, division by zero, overflow, or a construct that is not allowed.
    """
    value = _Evaluation(names or {}).value(_parse(text))
    quantity = _quantity(value, "a formula")
    if not math.isfinite(quantity.value):
        raise FormulaError(f"“{text}” is too large to work with")
    return quantity


class _Evaluation:
    def __init__(self, names: Mapping[str, Quantity]) -> None:
        self.names = names

    def value(self, node: ast.expr) -> Value:
        method = getattr(self, f"on_{type(node).__name__}", None)
        if method is None:
            raise FormulaError(
                f"“{ast.unparse(node)}” is not allowed in a formula; "
                "numbers, units, names, + - * / **, comparisons and if-else are"
            )
        result: Value = method(node)
        return result

    def on_Constant(self, node: ast.Constant) -> Value:
        if isinstance(node.value, bool) or not isinstance(node.value, int | float):
            raise FormulaError(f"“{node.value!r}” is not a number")
        try:
            return Quantity(float(node.value))
        except OverflowError as error:
            raise FormulaError("this number is too large to work with") from error

    def on_Name(self, node: ast.Name) -> Value:
        name = node.id
        if name in self.names:
            return self.names[name]
        if name in CONSTANTS:
            return CONSTANTS[name]
        unit = "in" if name == _INCH else name
        if unit in UNITS:
            factor, dimension = UNITS[unit]
            return Quantity(factor, dimension)
        near = difflib.get_close_matches(name, [*self.names, *FUNCTIONS, *UNITS], n=3, cutoff=0.5)
        hint = f"; near it: {', '.join(near)}" if near else ""
        raise FormulaError(f"there is no parameter or unit called {name}{hint}")

    def on_UnaryOp(self, node: ast.UnaryOp) -> Value:
        if isinstance(node.op, ast.Not):
            return not self.truth(node.operand)
        quantity = _quantity(self.value(node.operand), "a sign")
        if isinstance(node.op, ast.USub):
            return Quantity(-quantity.value, quantity.dimension)
        if isinstance(node.op, ast.UAdd):
            return quantity
        raise FormulaError("~ is not allowed in a formula")

    def on_BinOp(self, node: ast.BinOp) -> Value:
        a = _quantity(self.value(node.left), "arithmetic")
        b = _quantity(self.value(node.right), "arithmetic")
        operation = _OPERATIONS.get(type(node.op))
        if operation is None:
            raise FormulaError(f"this operator is not allowed in “{ast.unparse(node)}”")
        try:
            return operation(a, b)
        except ZeroDivisionError as error:
            raise FormulaError(f"“{ast.unparse(node)}” divides by zero") from error
        except OverflowError as error:
            raise FormulaError(f"“{ast.unparse(node)}” is too large to work with") from error

    def on_Compare(self, node: ast.Compare) -> Value:
        left = self.value(node.left)
        for operator, right_node in zip(node.ops, node.comparators, strict=True):
            right = self.value(right_node)
            test = _COMPARISONS.get(type(operator))
            if test is None:
                raise FormulaError("only < <= > >= == != compare values in a formula")
            a, b = _alike([left, right], "a comparison")
            if not test(a.value, b.value):
                return False
            left = right
        return True

    def on_BoolOp(self, node: ast.BoolOp) -> Value:
        results = (self.truth(v) for v in node.values)
        return all(results) if isinstance(node.op, ast.And) else any(results)

    def on_IfExp(self, node: ast.IfExp) -> Value:
        # Both branches are evaluated so that a unit error does not hide until a size changes.
        yes, no = self.value(node.body), self.value(node.orelse)
        if not isinstance(yes, bool) and not isinstance(no, bool):
            _alike([yes, no], "if-else")
        return yes if self.truth(node.test) else no

    def on_Call(self, node: ast.Call) -> Value:
        if not isinstance(node.func, ast.Name) or node.func.id not in FUNCTIONS:
            name = ast.unparse(node.func)
            near = difflib.get_close_matches(name, list(FUNCTIONS), n=3, cutoff=0.5)
            hint = f"; near it: {', '.join(near)}" if near else f"; known: {', '.join(FUNCTIONS)}"
            raise FormulaError(f"there is no function called {name}{hint}")
        function, least, most = FUNCTIONS[node.func.id]
        if node.keywords or not least <= len(node.args) <= most:
            wanted = str(least) if least == most else f"{least} to {most}"
            raise FormulaError(f"{node.func.id} takes {wanted} values, but got {len(node.args)}")
        return function(*(self.value(a) for a in node.args))

    def truth(self, node: ast.expr) -> bool:
        value = self.value(node)
        if isinstance(value, bool):
            return value
        raise FormulaError(f"“{ast.unparse(node)}” is a number where yes/no is needed")


def _same(a: Quantity, b: Quantity, sign: str) -> Dimension:
    if a.dimension != b.dimension:
        raise FormulaError(
            f"{_a(a.dimension)} {sign} {_a(b.dimension)} has no meaning; "
            f"give both the same kind of unit"
        )
    return a.dimension


def _power(a: Quantity, b: Quantity) -> Quantity:
    if not b.dimension.plain:
        raise FormulaError("a power must be a plain number")
    if abs(b.value) > MAX_POWER:
        raise FormulaError(f"a power may be at most {MAX_POWER}")
    if a.dimension.plain:
        result = a.value**b.value
        if isinstance(result, complex):
            raise FormulaError(f"{a.value:g} ** {b.value:g} has no real value")
        return Quantity(result)
    if b.value != int(b.value):
        raise FormulaError(f"{_a(a.dimension)} can only be raised to a whole power; use sqrt")
    return Quantity(a.value ** int(b.value), a.dimension ** int(b.value))


_OPERATIONS: dict[type[ast.operator], Callable[[Quantity, Quantity], Quantity]] = {
    ast.Add: lambda a, b: Quantity(a.value + b.value, _same(a, b, "+")),
    ast.Sub: lambda a, b: Quantity(a.value - b.value, _same(a, b, "-")),
    ast.Mult: lambda a, b: Quantity(a.value * b.value, a.dimension * b.dimension),
    ast.Div: lambda a, b: Quantity(a.value / b.value, a.dimension / b.dimension),
    ast.FloorDiv: lambda a, b: Quantity(a.value // b.value, a.dimension / b.dimension),
    ast.Mod: lambda a, b: Quantity(a.value % b.value, _same(a, b, "%")),
    ast.Pow: _power,
}
_COMPARISONS: dict[type[ast.cmpop], Callable[[float, float], bool]] = {
    ast.Lt: lambda a, b: a < b,
    ast.LtE: lambda a, b: a <= b,
    ast.Gt: lambda a, b: a > b,
    ast.GtE: lambda a, b: a >= b,
    ast.Eq: lambda a, b: a == b,
    ast.NotEq: lambda a, b: a != b,
}

__all__ = ["LENGTH", "FormulaError", "evaluate", "names_in", "rename_in", "reserved"]
