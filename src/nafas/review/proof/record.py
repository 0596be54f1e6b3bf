"""A proof as a small file next to the master: JSON, for people and programs to read later."""

import json
import math
from pathlib import Path
from typing import Any

from nafas.files import write_whole
from nafas.review.proof.proof import Proof
from nafas.sound.meters.loudness import coarse, sliding

ENDING = ".proof.json"
FORMAT = 1


def record_path(master: Path) -> Path:
    """Where the proof of a file lies: its whole name, and an ending of its own."""
    return master.with_name(master.name + ENDING)


def as_record(proof: Proof) -> dict[str, Any]:
    """Everything a proof says, ready for JSON. Errors and spreads in samples, times in seconds, loudness in LUFS once a
    second (short-term, EBU Tech 3341)."""
    measured = proof.measured
    return {
        "format": FORMAT,
        "holds": proof.holds,
        "file": proof.path.name,
        "sha256": proof.sha256,
        "session": proof.title,
        "session_sha256": proof.session_sum,
        "rate": proof.rate,
        "frames": proof.frames,
        "channels": proof.channels,
        "loudness_lufs": _number(measured.loudness),
        "true_peak_dbtp": _number(measured.true_peak),
        "loudness_range_lu": _number(measured.range),
        "target_lufs": proof.target,
        "ceiling_dbtp": proof.ceiling,
        "cues": len(proof.cues),
        "chimes": len(proof.chimes),
        "not_found": len(proof.missing),
        "worst_error_samples": _number(proof.worst),
        "mean_error_samples": _number(proof.mean),
        "allowed_error_samples": 0.5 + proof.tolerance.place,
        "faults": [
            {"kind": fault.kind.value, "text": fault.text, "at": fault.at, "end": fault.end} for fault in proof.faults
        ],
        "matches": [
            {
                "at": round(float(match.moment.at), 6),
                "kind": match.moment.kind.value,
                "what": match.name,
                "where": match.address,
                "found": match.found,
                "error": _number(match.error, 3),
                "spread": _number(match.spread, 3),
            }
            for match in proof.matches
        ],
        "short_term_lufs": [_number(value, 1) for value in short_term(proof)[::50]],
    }


def short_term(proof: Proof) -> list[float]:
    """Short-term loudness of the file every 20 ms, LUFS; where there is less than 3 s, momentary; or nothing."""
    fine = proof.measured.fine
    curve = sliding(fine, 3.0) if len(coarse(fine)) >= 30 else sliding(fine, 0.4)
    return [float(value) for value in curve]


def save_record(proof: Proof) -> Path:
    """Write a proof next to its file. Raises InputError."""
    path = record_path(proof.path)
    # A line for each field: Python indents in a loop of its own, which takes half a second for an hour.
    fields = as_record(proof).items()
    lines = (f" {json.dumps(name)}: {json.dumps(value, ensure_ascii=False)}" for name, value in fields)
    write_whole(path, ("{\n" + ",\n".join(lines) + "\n}\n").encode())
    return path


def _number(value: float | None, places: int = 2) -> float | None:
    return round(value, places) if value is not None and math.isfinite(value) else None
