"""What is still to be done in each view, in the order of work: a number, and what it counts."""

from nafas.plain_text import pluralize
from nafas.script.advice import flags
from nafas.sound.mix.mix import Mix
from nafas.timing.clock import clock
from nafas.voice.casting import Cast


def open_work(cast: Cast, mix: Mix) -> dict[str, tuple[int, str]]:
    """For "plan", "score", "takes" and "sound": how many things wait there, and what they are; 0 for none."""
    timeline = cast.timeline
    session = timeline.session
    counts: dict[str, tuple[int, str]] = {}
    if session.target_length is not None and abs(over := timeline.length - session.target_length) >= 1:
        counts["plan"] = (1, f"{clock(abs(over))} {'over' if over > 0 else 'under'} the target")
    looked = len(flags(session))
    counts["score"] = (looked, pluralize(looked, "place to look at", "places to look at"))
    misfits = len({misfit.placement.moment.text for misfit in cast.misfits})
    waiting = [pluralize(misfits, "line does not fit", "lines do not fit")] if misfits else []
    unread = cast.stand_ins if session.take_books else 0
    waiting += [pluralize(unread, "line has no take", "lines have no take")] if unread else []
    counts["takes"] = (misfits + unread, " and ".join(waiting))
    cut = len(mix.troubles)
    counts["sound"] = (cut, pluralize(cut, "thing cannot sound whole", "things cannot sound whole"))
    return counts
