"""What a model refuses, in words for people: the problem and the remedy."""

from decimal import Decimal
from typing import Any

from pydantic import ValidationError

from nafas.errors import InputError

_BOUNDS = {"ge": "at least", "gt": "more than", "le": "at most", "lt": "less than"}


def shown(value: Any) -> str:
    """A value as it was written, cut where it is long."""
    if value is None:
        return "nothing"
    text = str(value) if isinstance(value, Decimal) else repr(value)
    return text if len(text) <= 40 else text[:37] + "..."


def words_of(fault: Any) -> tuple[str, str]:
    """Problem and remedy of one of `ValidationError.errors()`."""
    kind, context, given = fault["type"], fault.get("ctx", {}), shown(fault.get("input"))
    if kind == "extra_forbidden":
        return "unknown key", "remove it or check its spelling"
    if kind == "missing":
        return "missing", "add it"
    for key, words in _BOUNDS.items():
        if key in context:
            return f"{given} is not allowed", f"write {words} {context[key]}"
    if kind == "string_too_long":
        return f"{len(fault['input']):,} characters are too many", f"write at most {context['max_length']:,}"
    if kind == "too_long":
        return "there are too many of them", f"keep at most {context['max_length']:,}"
    if kind == "string_unicode":
        return "holds half a letter (a lone surrogate)", "type the words again"
    if kind == "value_error":
        problem, _, remedy = str(context.get("error", fault["msg"])).partition("; ")
        return problem, remedy or "change it"
    return f"{given} does not fit", fault["msg"][0].lower() + fault["msg"][1:]


def first_fault(error: ValidationError) -> tuple[str, str]:
    """Problem and remedy of the first thing a model refuses."""
    return words_of(error.errors(include_url=False)[0])


def as_input_error(error: ValidationError, index: str = "") -> InputError:
    """The same as an `InputError`; without `index`, it is that of the field."""
    fault = error.errors(include_url=False)[0]
    where = " ".join(str(part).replace("_", " ") for part in fault["loc"]) or error.title
    return InputError(index or where, *words_of(fault))
