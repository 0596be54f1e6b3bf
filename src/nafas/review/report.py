"""A finished render in a few lines for people."""

from nafas.review.produce import Production


def report(made: Production) -> str:
    """A finished render in a few lines for people."""
    master, proof = made.mastered, made.proof
    minutes, seconds = divmod(made.duration, 60)
    lines = [
        f"{master.path}: {int(minutes)}:{seconds:04.1f}, {master.measured.loudness:.1f} LUFS, "
        f"{master.measured.true_peak:.1f} dBTP, rendered at {made.real_time_factor:.0f} x real time"
    ]
    if master.stems:
        lines.append("stems: " + ", ".join(str(path) for path in master.stems.values()))
    if master.limited < 0:
        lines.append(f"the limiter took up to {-master.limited:.1f} dB off peaks")
    if master.shortfall:
        lines.append(
            f"loudness misses its target of {master.target:g} LUFS by {master.shortfall:.1f} LU: lower the target"
        )
    if made.cast.stand_ins:
        lines.append(f"{made.cast.stand_ins} line(s) are still read by the stand-in voice")
    if proof is not None and not proof.landings:
        lines.append("proof: there is no spoken cue to look for")
    elif proof is not None:
        found = len(proof.landings) - len(proof.missing)
        line = f"proof: {found} of {len(proof.landings)} cues found in the rendered voice"
        if proof.worst is not None and proof.mean is not None:
            line += f", beat error worst {proof.worst:.2f}, mean {proof.mean:.2f} samples"
        lines.append(line)
        lines += [f"  not found: {p.moment.address} {p.moment.text!r}" for p in proof.missing]
    misfits = made.cast.misfits
    lines.append(f"fit: {len(misfits)} line(s) longer than their slot" if misfits else "fit: every line fits its slot")
    lines += [f"  {misfit}" for misfit in misfits]
    return "\n".join(lines)
