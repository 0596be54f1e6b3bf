"""An audit in words: for the terminal, and as HTML for paper."""

from collections.abc import Sequence
from html import escape

from nafas.plain_text import many
from nafas.review.audit.audit import Audit
from nafas.review.audit.performed import PerformedSet
from nafas.timing.clock import clock


def heading(found: Audit) -> str:
    """Length and levels."""
    measured = found.measured
    return (
        f"{found.path.name}: {clock(found.seconds)}, {measured.loudness:.1f} LUFS, true peak {measured.true_peak:.1f} "
        f"dBTP, range {measured.range:.1f} LU, floor {found.noise_floor:.0f} LUFS"
    )


def heard(found: Audit) -> str:
    """How much was heard."""
    words = many(len(found.words), "cue or number", "cues and numbers")
    talk = f", {many(len(found.talk), 'sentence')} of talk" if found.talk else ""
    return f"heard: {words} in {many(len(found.sets), 'set')}{talk}"


def set_line(one: PerformedSet, number: int) -> str:
    """A set: where, its pattern, rounds and count."""
    pattern = "-".join(f"{kind.plain} {counts}" for kind, counts in one.pattern)
    count = "" if one.count_length is None else f", a count {one.count_length:.3f} s"
    where = f"{clock(one.start)} to {clock(one.end)}"
    return f"set {number}, {where}: {pattern}, {many(len(one.rounds), 'round')}{count}"


def text(found: Audit) -> str:
    """All of it in lines."""
    lines = [heading(found), heard(found)]
    lines += [f"  {set_line(one, number)}" for number, one in enumerate(found.sets, 1)]
    for finding in found.findings:
        lines.append(f"{finding.severity.value.upper()} {clock(finding.at, tenths=True)}  {finding.text}")
    if not found.findings:
        lines.append("Nothing found.")
    lines += [f"Not told: {limit}" for limit in found.limits]
    return "\n".join(lines)


def body(found: Audit, pictures: Sequence[str]) -> str:
    """All of it as HTML, a picture of each part of the sets by its name, and the talk as it was heard."""
    parts = [f"<h1>{escape(found.path.name)}</h1>", f'<p class="about">{escape(heading(found))}<br>{heard(found)}</p>']
    parts += ["<ul>", *(f"<li>{set_line(one, number)}</li>" for number, one in enumerate(found.sets, 1)), "</ul>"]
    rows = [
        _row(finding.at, f'<span class="fact">{finding.severity.value}: {escape(finding.text)}</span>')
        for finding in found.findings
    ]
    parts += ["<table>", *rows, "</table>"] if rows else ["<p>Nothing is wrong in what was heard.</p>"]
    parts += [f"<p>Not told: {escape(limit)}.</p>" for limit in found.limits]
    parts += [f'<p><img src="{name}" width="640"></p>' for name in pictures]
    if found.talk:
        parts.append("<h2>Talk, as it was heard</h2><table>")
        parts += [_row(said.start, escape(said.text or "not written down")) for said in found.talk]
        parts.append("</table>")
    return "\n".join(parts)


def _row(at: float, cell: str) -> str:
    return f'<tr><td class="time">{clock(at, tenths=True)}</td><td>{cell}</td></tr>'
