"""The demo: a made-up session for the deck crew of a night ferry, and the take book that speaks it."""

from pathlib import Path

FOLDER = Path(__file__).parent
SESSION = FOLDER / "night-ferry.nafas"
