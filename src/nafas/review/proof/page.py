"""A proof as one page to look at, in HTML with its pictures in it: nothing else is needed to open it."""

from collections.abc import Iterator
from html import escape

from nafas.review.proof.picture import WIDTH, Picture, picture
from nafas.review.proof.proof import Proof
from nafas.timing.clock import clock

_STYLE = """
body { font: 15px/1.5 sans-serif; color: #2b2722; background: #faf7f1; margin: 32px auto; max-width: 960px; }
h1 { font-size: 22px; margin: 0 0 4px; } .muted { color: #6d655a; } .fault { color: #9d2f1f; }
svg { width: 100%; height: auto; display: block; margin: 18px 0; } td { padding: 2px 14px 2px 0; vertical-align: top; }
"""


def page(proof: Proof) -> str:
    """The page, as text."""
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(proof.title)}: proof</title>'
        f"<style>{_STYLE}</style></head><body>{body(proof, ''.join(_svg(picture(proof))))}</body></html>\n"
    )


def body(proof: Proof, drawn: str) -> str:
    """What stands on the page, in HTML, with `drawn` where the picture goes."""
    verdict = "The proof holds" if proof.holds else "The proof does not hold"
    minutes = clock(proof.frames / proof.rate, tenths=True)
    facts = (
        f"{proof.path.name}, {minutes}, {proof.measured.loudness:.1f} LUFS, {proof.measured.true_peak:.1f} dBTP, "
        f"{proof.rate} Hz. SHA-256 {proof.sha256}"
    )
    rows = "".join(
        f"<tr><td>{clock(match.moment.at, tenths=True)}</td><td>{escape(match.name[:80])}</td>"
        f"<td>{escape(match.address)}</td><td>{'not found' if match.error is None else f'{match.error:+.2f}'}</td></tr>"
        for match in proof.matches
    )
    faults = "".join(f'<p class="fault">{escape(str(fault))}</p>' for fault in proof.faults)
    faults += f"<p>To do: {escape(proof.remedy)}.</p>" if proof.remedy else ""
    return (
        f"<h1>{escape(proof.title or proof.path.name)}</h1><p><b>{verdict}.</b></p>{faults}"
        f'<p class="muted">{escape(facts)}</p>{drawn}'
        f"<table><tr><td>Time</td><td>What</td><td>Where</td><td>Error, samples</td></tr>{rows}</table>"
    )


def _svg(drawn: Picture) -> Iterator[str]:
    yield f'<svg viewBox="0 0 {WIDTH} {drawn.height}" role="img" font-family="sans-serif" font-size="12">'
    low, high = drawn.band
    yield f'<rect x="0" y="{low:.1f}" width="{WIDTH}" height="{high - low:.1f}" fill="#dfe8dd"/>'
    for mark in drawn.marks:
        colour = "#9d2f1f" if mark.fault else "#2f5d62"
        if mark.match.error is None:
            yield f'<path d="M{mark.x - 4:.1f} {mark.y - 4:.1f}l8 8m0 -8l-8 8" stroke="{colour}" stroke-width="2"/>'
        elif mark.match.is_voice:
            yield f'<circle cx="{mark.x:.1f}" cy="{mark.y:.1f}" r="2.4" fill="{colour}"/>'
        else:
            yield f'<path d="M{mark.x:.1f} {mark.y - 4:.1f}l4 4l-4 4l-4 -4z" fill="none" stroke="{colour}"/>'
    for begin, end in drawn.spans:
        wide = max(2, end - begin)
        yield f'<rect x="{begin:.1f}" y="0" width="{wide:.1f}" height="{drawn.height}" fill="#9d2f1f33"/>'
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in drawn.loudness)
    yield f'<polyline points="{points}" fill="none" stroke="#6d655a" stroke-width="1.2"/>'
    yield f'<path d="M0 {drawn.target:.1f}h{WIDTH}" stroke="#b98a2e" stroke-dasharray="4 3"/>'
    for x, y, text in drawn.words:
        yield f'<text x="{x:.1f}" y="{y:.1f}" fill="#6d655a">{escape(text)}</text>'
    yield "</svg>"
