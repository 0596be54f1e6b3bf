"""The proof of a finished file: decoded as a player would, every cue, chime and bell found in the mixture, its loudness
and its levels held against the session's."""

from nafas.review.proof.proof import CueMatch, Fault, FaultKind, Proof
from nafas.review.proof.prove import prove, prove_again

__all__ = ["CueMatch", "Fault", "FaultKind", "Proof", "prove", "prove_again"]
