"""Lines that could be meant by one that is not understood."""

import re

from nafas.script.notation.typed.lexer import plain, tokens_of
from nafas.script.notation.typed.vocabulary import Kind


def offers(text: str) -> list[str]:
    """Lines near a typed one, the likeliest first; each is still to be read itself."""
    line = plain(text).strip()
    lines: list[str] = []
    digits = re.fullmatch(r"([1-9])([1-9])([1-9])?([1-9])?(\s*x\s*\d+)?", line)
    if digits is not None:
        lines.append(
            "-".join(filter(None, digits.groups()[:4])) + (f" {digits.group(5).strip()}" if digits.group(5) else "")
        )
    tokens = tokens_of(line)
    ending = re.fullmatch(r"(.+?)\s+(?:for|f\u00fcr|pendant|durante)\s+(\d+)", line)
    if ending is not None:
        lines += [f"{ending.group(1)} for {ending.group(2)} min", f"{ending.group(1)} x{ending.group(2)}"]
    numbers = [int(token.number) for token in tokens if token.kind is Kind.NUMBER and token.number.denominator == 1]
    counts = [number for number in numbers if 1 <= number <= 60]
    kinds = [token.value for token in tokens if token.kind is Kind.PHASE]
    sounds = [token.value for token in tokens if token.kind in (Kind.SOUND, Kind.ROUTE)]
    first = counts[0] if counts else 4
    if "in" in kinds and "out" not in kinds:
        lines += [f"{line}, out {first}", f"{line}, out {min(60, first + first // 2)}"]
    elif "out" in kinds and "in" not in kinds:
        lines.append(f"in {max(1, first * 2 // 3)}, {line}")
    elif any(kind.startswith("hold") for kind in kinds):
        lines.append(f"in 4, hold {first}{'s' if first > 12 else ''}, out 6")
    elif sounds:
        lines.append(f"in 4, out 6 {sounds[0]}")
    elif any(token.kind is Kind.FAMILY for token in tokens) and not counts:
        lines.append(f"{line} 4")
    elif any(token.kind is Kind.STROKES for token in tokens):
        lines.append("rapid 30 @ 60/min")
    elif any(token.kind is Kind.REST for token in tokens):
        lines.append("rest 30s")
    elif len(counts) == 1 and len(tokens) <= 2:
        lines += [f"{first}-{first}", f"{first}-{min(60, first + first // 2)}"]
    if counts and re.match(r"0\b", line):
        lines.append("-".join(str(counts[0]) for _ in range(2)))
    return lines
