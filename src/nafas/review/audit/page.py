"""An audit in words: for the terminal, and as HTML for paper."""

from collections.abc import Sequence
from html import escape

from nafas.plain_text import pluralize
from nafas.review.audit.audit import Audit
from nafas.script.performed import PerformedSet
from nafas.timing.clock import clock


def heading(audit: Audit) -> str:
    """Length and levels."""
    measured = audit.measured
    return (
        f"{audit.path.name}: {clock(audit.seconds)}, {measured.loudness:.1f} LUFS, true peak {measured.true_peak:.1f} "
        f"dBTP, range {measured.range:.1f} LU, floor {audit.noise_floor:.0f} LUFS"
    )


def heard(audit: Audit) -> str:
    """How much was heard."""
    words = pluralize(len(audit.words), "cue or number", "cues and numbers")
    talk = f", {pluralize(len(audit.talk), 'sentence')} of talk" if audit.talk else ""
    return f"heard: {words} in {pluralize(len(audit.sets), 'set')}{talk}"


def set_line(one: PerformedSet, number: int) -> str:
    """A set: where, its pattern, rounds and count."""
    pattern = "-".join(f"{kind.plain} {counts}" for kind, counts in one.pattern)
    count = "" if one.count_length is None else f", a count {one.count_length:.3f} s"
    where = f"{clock(one.start)} to {clock(one.end)}"
    return f"set {number}, {where}: {pattern}, {pluralize(len(one.rounds), 'round')}{count}"


def text(audit: Audit) -> str:
    """All of it in lines."""
    lines = [heading(audit), heard(audit)]
    lines += [f"  {set_line(one, number)}" for number, one in enumerate(audit.sets, 1)]
    for finding in audit.findings:
        lines.append(f"{finding.severity.value.upper()} {clock(finding.at, tenths=True)}  {finding.text}")
    if not audit.findings:
        lines.append("Nothing found.")
    lines += [f"Limit: {limit}" for limit in audit.limits]
    return "\n".join(lines)


def body(audit: Audit, pictures: Sequence[str]) -> str:
    """All of it as HTML, a picture of each part of the sets by its name, and the talk as it was heard."""
    parts = [f"<h1>{escape(audit.path.name)}</h1>", f'<p class="about">{escape(heading(audit))}<br>{heard(audit)}</p>']
    parts += ["<ul>", *(f"<li>{set_line(one, number)}</li>" for number, one in enumerate(audit.sets, 1)), "</ul>"]
    rows = [
        _row(finding.at, f'<span class="fact">{finding.severity.value}: {escape(finding.text)}</span>')
        for finding in audit.findings
    ]
    parts += ["<table>", *rows, "</table>"] if rows else ["<p>No faults were found.</p>"]
    parts += [f"<p>Limit: {escape(limit)}.</p>" for limit in audit.limits]
    parts += [f'<p><img src="{name}" width="640"></p>' for name in pictures]
    if audit.talk:
        parts.append("<h2>Talk, as it was heard</h2><table>")
        parts += [_row(said.start, escape(said.text or "not written down")) for said in audit.talk]
        parts.append("</table>")
    return "\n".join(parts)


def _row(at: float, cell: str) -> str:
    return f'<tr><td class="time">{clock(at, tenths=True)}</td><td>{cell}</td></tr>'
